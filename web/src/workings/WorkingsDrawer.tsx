import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { withPages } from "../api/pages";
import type { Cell, WorkingsPage } from "../api/types";
import { type TermOrder, workingsFile } from "../api/workings";
import { VirtualTable } from "../tables/VirtualTable";
import { useTerms, useWorkings, useWorkingsOf, type Worked } from "./workings";
import "./WorkingsDrawer.css";

/** The drawer at the bottom edge: closed, a line that explains what it is for. */
export function WorkingsDrawer({ study, hint }: { study: string; hint: string }) {
  const { requested, back, close } = useWorkings();
  const found = useWorkingsOf(study, requested);
  const [sorted, setSorted] = useState<{ of: Worked; order: TermOrder | null } | null>(null);
  const order = sorted?.of === requested ? (sorted?.order ?? null) : null;
  const panel = useRef<HTMLElement>(null);
  useEffect(() => {
    if (requested) panel.current?.focus();
  }, [requested]);
  if (!requested) {
    return (
      <footer className="workings-bar">
        <span aria-hidden="true">▴</span> Workings <span className="quiet">{hint}</span>
      </footer>
    );
  }
  const workings = found.data?.result;
  return (
    <section className="workings" ref={panel} tabIndex={-1} aria-label="Workings">
      <header>
        {back ? <Button onClick={back}>Back</Button> : null}
        <h2>{workings?.title ?? "Workings"}</h2>
        {workings ? (
          <Export study={study} requested={requested} order={order} workings={workings} />
        ) : null}
        <Button onClick={close}>Close</Button>
      </header>
      {found.error ? <p>{found.error.message}</p> : null}
      {workings ? (
        <Sheet
          key={JSON.stringify(requested)}
          study={study}
          requested={requested}
          order={order}
          onOrder={(next) => setSorted({ of: requested, order: next })}
          workings={workings}
        />
      ) : (
        <p className="quiet">Computing …</p>
      )}
    </section>
  );
}

function Sheet({
  study,
  requested,
  order,
  onOrder,
  workings,
}: {
  study: string;
  requested: Worked;
  order: TermOrder | null;
  onOrder: (order: TermOrder | null) => void;
  workings: WorkingsPage;
}) {
  const { further } = useWorkings();
  const [pages, setPages] = useState<readonly number[]>([0]);
  const rows = useTerms(study, requested, order, workings.total, pages);
  const columns = useMemo(
    () =>
      workings.head.map((head, k) => ({
        key: `${k}`,
        head,
        cell: (row: readonly Cell[]) => <Term cell={row[k]} of={requested} onOpen={further} />,
      })),
    [workings.head, further, requested],
  );
  const onSight = useCallback(
    (first: number, last: number) => setPages((now) => withPages(now, first, last)),
    [],
  );
  return (
    <div className="workings-body">
      <div className="workings-formula">
        {workings.formula.map((line) => (
          <p key={line}>{line}</p>
        ))}
        {workings.typed ? <TypedIn typed={workings.typed} of={requested} /> : null}
        <p className="quiet">{workings.note}</p>
        {workings.more.map((one) => (
          <Button key={one.label} onClick={() => further({ ...requested, ...one.opens })}>
            {one.label}
          </Button>
        ))}
      </div>
      <VirtualTable
        label="Terms"
        columns={columns}
        rows={rows}
        marked={order ? null : workings.marked}
        onSight={onSight}
        sorted={order ? { key: `${order.by}`, descending: order.descending } : null}
        onSort={(key) => onOrder(nextOrder(order, Number(key)))}
      />
    </div>
  );
}

interface TermProps {
  cell: Cell | undefined;
  /** The workings that it is a term of. */
  of: Worked;
  onOpen: (of: Worked) => void;
}

/** A term, which may open workings of its own. */
function Term({ cell, of, onOpen }: TermProps) {
  const opens = cell?.workings;
  if (!opens) return cell?.text ?? "";
  return (
    <button
      type="button"
      className="worked"
      title="Show who stands behind it"
      onClick={() => onOpen({ ...of, ...opens })}
    >
      {cell.text}
    </button>
  );
}

/** A value that the same workings can be had at. */
function TypedIn({ typed, of }: { typed: NonNullable<WorkingsPage["typed"]>; of: Worked }) {
  const { again } = useWorkings();
  const [value, setValue] = useState(typed.value);
  return (
    <form
      className="workings-typed"
      onSubmit={(event) => {
        event.preventDefault();
        const { opens, field } = typed;
        again({ ...of, ...opens, about: { ...opens.about, [field]: value } });
      }}
    >
      <TextField label={typed.label} value={value} onChange={(e) => setValue(e.target.value)} />
      <Button type="submit">Work out</Button>
    </form>
  );
}

/** Ascending, then descending, then as they are. */
function nextOrder(now: TermOrder | null, by: number): TermOrder | null {
  if (now?.by !== by) return { by, descending: false };
  return now.descending ? null : { by, descending: true };
}

/** Copying and saving all terms, at full precision. */
function Export({
  study,
  requested,
  order,
  workings,
}: {
  study: string;
  requested: Worked;
  order: TermOrder | null;
  workings: WorkingsPage;
}) {
  const address = workingsFile(study, requested, order);
  const copy = async () => {
    const terms = await (await fetch(`${address}&between=tabs`)).text();
    const lines = terms.replace(/\r\n/g, "\n").trimEnd();
    await navigator.clipboard.writeText(`${workings.formula.join("\n")}\n\n${lines}`);
  };
  return (
    <>
      <Button onClick={() => void copy()}>Copy</Button>
      <Button component="a" download href={address}>
        Save as CSV
      </Button>
    </>
  );
}

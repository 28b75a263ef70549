import Button from "@mui/material/Button";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { withPages } from "../api/pages";
import type { WorkingsPage } from "../api/types";
import { workingsFile } from "../api/workings";
import { VirtualTable } from "../tables/VirtualTable";
import { useTerms, useWorkings, useWorkingsOf, type Worked } from "./workings";
import "./WorkingsDrawer.css";

/** The drawer at the bottom edge: closed, a line that says what it is for. */
export function WorkingsDrawer({ study, hint }: { study: string; hint: string }) {
  const { asked, close } = useWorkings();
  const found = useWorkingsOf(study, asked);
  const panel = useRef<HTMLElement>(null);
  useEffect(() => {
    if (asked) panel.current?.focus();
  }, [asked]);
  if (!asked) {
    return (
      <div className="workings-bar">
        <span aria-hidden="true">▴</span> Workings <span className="quiet">{hint}</span>
      </div>
    );
  }
  const workings = found.data?.result;
  return (
    <section className="workings" ref={panel} tabIndex={-1} aria-label="Workings">
      <header>
        <h2>{workings?.title ?? "Workings"}</h2>
        {workings ? <Export study={study} asked={asked} workings={workings} /> : null}
        <Button onClick={close}>Close</Button>
      </header>
      {found.error ? <p>{found.error.message}</p> : null}
      {workings ? (
        <Sheet key={JSON.stringify(asked)} study={study} asked={asked} workings={workings} />
      ) : (
        <p className="quiet">Computing …</p>
      )}
    </section>
  );
}

function Sheet({
  study,
  asked,
  workings,
}: {
  study: string;
  asked: Worked;
  workings: WorkingsPage;
}) {
  const [pages, setPages] = useState<readonly number[]>([0]);
  const rows = useTerms(study, asked, workings.total, pages);
  const columns = useMemo(
    () =>
      workings.head.map((head, k) => ({
        key: `${k}`,
        head,
        cell: (row: readonly { text: string }[]) => row[k]?.text ?? "",
      })),
    [workings.head],
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
        <p className="quiet">{workings.note}</p>
      </div>
      <VirtualTable
        label="Terms"
        columns={columns}
        rows={rows}
        marked={workings.marked}
        onSight={onSight}
      />
    </div>
  );
}

/** Copying and saving all terms, at full precision. */
function Export({
  study,
  asked,
  workings,
}: {
  study: string;
  asked: Worked;
  workings: WorkingsPage;
}) {
  const address = workingsFile(study, asked);
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

import Button from "@mui/material/Button";
import { useCallback, useMemo, useState } from "react";
import { useTakeStep } from "../../api/changes";
import { pageFor, withPages } from "../../api/pages";
import { useRowPages } from "../../api/queries";
import type { ColumnView, RowView, StepBody } from "../../api/types";
import { AskReason } from "../../frame/AskReason";
import { grouped } from "../../numbers/format";
import { type VirtualColumn, VirtualTable } from "../../tables/VirtualTable";
import { RowWorkings } from "./RowWorkings";
import "./RowsTable.css";

const ROW_HEIGHT = 27;
const MAX_WHY = 400;
const NOBODY: ReadonlySet<number> = new Set();

/**
 * Columns with their small distributions, and the rows under them: as many as there are. Rows are
 * ticked at their numbers, and those that are ticked can be set aside.
 */
export function RowsTable({
  study,
  columns,
  marked,
  onAll,
}: {
  study: string;
  columns: readonly ColumnView[];
  marked: number[] | null;
  onAll: () => void;
}) {
  const [pages, setPages] = useState<readonly number[]>([0]);
  const size = pageFor(columns.length);
  const { total, rows } = useRowPages(study, pages, size, marked);
  const onSight = useCallback(
    (first: number, last: number) => setPages((now) => withPages(now, first, last, size)),
    [size],
  );
  const [worked, setWorked] = useState<number | null>(null);
  const [ticked, setTicked] = useState<ReadonlySet<number>>(NOBODY);
  const onTick = useCallback(
    (row: number) =>
      setTicked((now) => new Set(now.has(row) ? [...now].filter((n) => n !== row) : [...now, row])),
    [],
  );
  const shown = useMemo(
    () => [numberColumn(ticked, onTick), followUpColumn(setWorked), ...columns.map(shownColumn)],
    [columns, ticked, onTick],
  );
  return (
    <section className="rows" aria-label="Columns and rows">
      <VirtualTable
        // Other rows are read from their start.
        key={marked ? "marked" : "all"}
        label="Table of rows"
        columns={shown}
        rows={rows}
        rowHeight={ROW_HEIGHT}
        {...(marked ? { rowClass: "marked" } : {})}
        onSight={onSight}
      />
      {worked === null ? null : (
        <RowWorkings study={study} row={worked} onClose={() => setWorked(null)} />
      )}
      <p className="rows-foot">
        <span className="quiet">
          {grouped(total)} {total === 1 ? "row" : "rows"}
          {marked ? " of the finding" : ""}
        </span>
        {marked ? <Button onClick={onAll}>Show all rows</Button> : null}
        {marked ? (
          <Button onClick={() => setTicked(new Set(marked))}>Tick these rows</Button>
        ) : null}
        <SetTickedAside study={study} ticked={ticked} onNone={() => setTicked(NOBODY)} />
      </p>
    </section>
  );
}

/** What can be done with the rows that are ticked. */
function SetTickedAside({
  study,
  ticked,
  onNone,
}: {
  study: string;
  ticked: ReadonlySet<number>;
  onNone: () => void;
}) {
  const take = useTakeStep(study);
  const [asking, setAsking] = useState(false);
  const close = () => {
    setAsking(false);
    take.reset();
  };
  const named = `${grouped(ticked.size)} ${ticked.size === 1 ? "row" : "rows"}`;
  const rows = [...ticked].sort((a, b) => a - b);
  if (ticked.size === 0) return null;
  return (
    <>
      <span role="status">{named} ticked</span>
      <Button variant="outlined" onClick={() => setAsking(true)}>
        Set aside …
      </Button>
      <Button onClick={onNone}>Untick</Button>
      {asking ? (
        <AskReason
          title={`Set ${named} aside`}
          act="Set aside"
          busy={take.isPending}
          error={take.error}
          onClose={close}
          onDecide={(reason) => {
            const step = {
              kind: "set_aside",
              rows,
              why: reason.slice(0, MAX_WHY) || "ticked in the table",
            };
            take.mutate(
              { step: step as StepBody, reason, insteadOf: null },
              {
                onSuccess: () => {
                  close();
                  onNone();
                },
              },
            );
          }}
        />
      ) : null}
    </>
  );
}

function numberColumn(
  ticked: ReadonlySet<number>,
  onTick: (row: number) => void,
): VirtualColumn<RowView> {
  return {
    key: "row",
    head: "row",
    rowHead: true,
    cell: (row) => (
      <button
        type="button"
        className="tick"
        aria-pressed={ticked.has(row.number)}
        aria-label={`Tick row ${row.number}`}
        onClick={() => onTick(row.number)}
      >
        {row.number}
      </button>
    ),
  };
}

/** What the statement makes of a row; choosing it shows how it arose. */
function followUpColumn(onWork: (row: number) => void): VirtualColumn<RowView> {
  return {
    key: "follow-up",
    head: (
      <div className="column-head">
        <b>time, end</b>
        <span className="quiet">by the sentence above</span>
      </div>
    ),
    cell: (row) =>
      row.time ? (
        <button
          type="button"
          className="worked"
          aria-label={`Row ${row.number}: ${row.time}, ${row.status}`}
          onClick={() => onWork(row.number)}
        >
          {row.time} <span className="quiet">{row.status}</span>
        </button>
      ) : (
        <span className="quiet">—</span>
      ),
  };
}

function shownColumn(column: ColumnView, k: number): VirtualColumn<RowView> {
  return {
    key: column.name,
    head: <ColumnHead column={column} />,
    cell: (row) => {
      const cell = row.cells[k] ?? "";
      return (
        <span title={cell.length > 24 ? cell : undefined}>
          {cell === "" ? <span className="quiet">—</span> : cell}
          <AsWritten text={row.as_written[k]} />
        </span>
      );
    },
  };
}

/** The text in the file, beside what was read from it. */
export function AsWritten({ text }: { text: string | undefined }) {
  return text ? <span className="as-written">file: {text}</span> : null;
}

function ColumnHead({ column }: { column: ColumnView }) {
  const kind = { number: "number", date: "date", text: "text" }[column.kind];
  return (
    <div className="column-head">
      <b title={column.label ? `${column.name}: ${column.label}` : column.name}>
        {column.name}
        {column.unit ? <span className="quiet"> {column.unit}</span> : null}
      </b>
      <span className={column.role ? "role" : "quiet"}>{column.role || kind}</span>
      <Distribution column={column} />
      <span className={column.missing ? "missing" : "quiet"}>
        {column.missing ? `${grouped(column.missing)} missing` : summary(column)}
      </span>
    </div>
  );
}

function summary(column: ColumnView): string {
  if (column.kind === "date") return `${column.low.slice(0, 4)} to ${column.high.slice(0, 4)}`;
  if (column.kind === "number") return `${column.low} to ${column.high}`;
  return column.distinct === 1 ? "1 level" : `${grouped(column.distinct)} levels`;
}

const WIDTH = 84;
const HEIGHT = 26;

/** A histogram of numbers and dates, a bar of levels for text. */
function Distribution({ column }: { column: ColumnView }) {
  if (column.bins.length) {
    const most = Math.max(...column.bins, 1);
    const step = WIDTH / column.bins.length;
    return (
      <svg width={WIDTH} height={HEIGHT} aria-hidden="true">
        {column.bins.map((n, k) => (
          <rect
            key={k}
            x={k * step}
            width={step - 0.8}
            y={HEIGHT - (HEIGHT * n) / most}
            height={(HEIGHT * n) / most}
            className="bin"
          />
        ))}
      </svg>
    );
  }
  const sum = column.levels.reduce((total, one) => total + one.rows, 0) || 1;
  if (column.distinct > 20) return <svg width={WIDTH} height={HEIGHT} aria-hidden="true" />;
  let x = 0;
  return (
    <svg width={WIDTH} height={HEIGHT} role="img" aria-label={levelsInWords(column)}>
      <title>{levelsInWords(column)}</title>
      {column.levels.map(({ level, rows }, k) => {
        const width = (WIDTH * rows) / sum;
        const at = x;
        x += width;
        return (
          <rect
            key={level}
            x={at}
            width={Math.max(width - 1, 0.5)}
            y={9}
            height={13}
            className="level"
            style={{ opacity: 1 - 0.8 * (k / Math.max(column.levels.length, 2)) }}
          />
        );
      })}
    </svg>
  );
}

function levelsInWords(column: ColumnView): string {
  return column.levels.map(({ level, rows }) => `${level} ${rows}`).join(", ");
}

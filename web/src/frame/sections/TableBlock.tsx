import Tooltip from "@mui/material/Tooltip";
import type { Cell, CellTable } from "../../api/types";
import { type View, ViewContext } from "../../api/view";
import { Numbers, Shape } from "../../readings/Readings";
import { WorkedNumber } from "../../workings/workings";
import "./TableBlock.css";

/** A table of readings: every number is worded already. */
export function TableBlock({
  stage,
  table,
  views = [],
}: {
  stage: string;
  table: CellTable;
  /** The views whose numbers stand in the columns after the first, where these are of several. */
  views?: readonly View[];
}) {
  return (
    <Numbers
      label={table.label}
      {...(table.head.length ? { head: table.head } : {})}
      rows={table.rows.map((row) =>
        row.map((cell, k) => ({
          text: <OfView key={k} view={views[k - 1]} stage={stage} cell={cell} />,
          strong: cell.strong,
          wordy: cell.wordy,
          ...(cell.tone === null ? {} : { tone: cell.tone }),
        })),
      )}
    />
  );
}

/** A cell whose workings are those of a view. */
function OfView({ view, ...cell }: { view: View | undefined; stage: string; cell: Cell }) {
  const text = <CellText {...cell} />;
  return view ? <ViewContext.Provider value={view}>{text}</ViewContext.Provider> : text;
}

/** A cell: its verdict's shape, its text, and what stands under it. */
export function CellText({ stage, cell }: { stage: string; cell: Cell }) {
  const text = cell.workings ? (
    <WorkedNumber stage={stage} of={cell.workings}>
      {cell.text}
    </WorkedNumber>
  ) : (
    <Exact of={cell} />
  );
  return (
    <>
      {cell.verdict ? <Shape verdict={cell.verdict} /> : null}
      {text}
      {cell.below ? (
        <span className={cell.verdict ? "cell-below indented" : "cell-below"}>{cell.below}</span>
      ) : null}
    </>
  );
}

/** Whether a p is shown as a bound alone, so that nothing of its size is read. */
function beyond(p: Cell["raw"]): boolean {
  return typeof p === "number" && (p < 0.001 || p > 0.999);
}

/** A number that has more digits than are shown: they come where it is pointed at or focused. */
function Exact({ of }: { of: Cell }) {
  if (!of.exact) return of.text;
  return (
    <Tooltip title={of.exact} describeChild>
      <span tabIndex={beyond(of.raw) ? 0 : undefined}>{of.text}</span>
    </Tooltip>
  );
}

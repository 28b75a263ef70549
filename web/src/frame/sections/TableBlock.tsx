import Tooltip from "@mui/material/Tooltip";
import type { Cell, CellTable } from "../../api/types";
import { Numbers, Shape } from "../../readings/Readings";
import { WorkedNumber } from "../../workings/workings";
import "./TableBlock.css";

/** A table of readings: every number is worded already. */
export function TableBlock({ stage, table }: { stage: string; table: CellTable }) {
  return (
    <Numbers
      label={table.label}
      {...(table.head.length ? { head: table.head } : {})}
      rows={table.rows.map((row) =>
        row.map((cell, k) => ({
          text: <CellText key={k} stage={stage} cell={cell} />,
          strong: cell.strong,
          wordy: cell.wordy,
          ...(cell.tone === null ? {} : { tone: cell.tone }),
        })),
      )}
    />
  );
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

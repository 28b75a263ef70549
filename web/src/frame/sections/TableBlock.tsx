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
    cell.text
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

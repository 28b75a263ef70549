import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useMemo } from "react";
import type { Figure, Track } from "../api/types";
import { atRiskAt, lastAtOrBefore } from "../numbers/atTime";
import { plain } from "../numbers/format";
import { type VirtualColumn, VirtualTable } from "../tables/VirtualTable";
import "./FigureTable.css";

/** The figure as a table: every line's value, and the numbers at risk, at every event time. */
export function FigureTable({
  figure,
  shown,
  onClose,
}: {
  figure: Figure;
  shown: readonly Track[];
  onClose: () => void;
}) {
  const times = useMemo(() => [0, ...figure.events], [figure.events]);
  const columns = useMemo(
    () => [timeColumn(figure.time_label), ...columnsOf(shown)],
    [figure, shown],
  );
  return (
    <Dialog open onClose={onClose} maxWidth="lg" aria-labelledby="figure-table-title">
      <DialogTitle id="figure-table-title">{figure.name}</DialogTitle>
      <DialogContent className="figure-table">
        <VirtualTable label={figure.name} columns={columns} rows={times} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

function timeColumn(head: string): VirtualColumn<number> {
  return { key: "time", head, rowHead: true, cell: (t) => plain(t, 6) };
}

function columnsOf(shown: readonly Track[]): VirtualColumn<number>[] {
  return shown.flatMap((track) => [
    ...track.lines.map((line, k) => ({
      key: `${track.id} line ${k}`,
      head: `${track.title}: ${line.label}`,
      cell: (t: number) => {
        const value = line.y[lastAtOrBefore(line.x, t)];
        const past = line.end !== null && line.end !== undefined && t > line.end;
        return value === null || value === undefined || past ? "" : plain(value, 4);
      },
    })),
    ...track.counts.map((row, k) => ({
      key: `${track.id} count ${k}`,
      head: `${track.title}: ${row.label}`,
      cell: (t: number) => String(atRiskAt(row.time, row.number, t)),
    })),
  ]);
}

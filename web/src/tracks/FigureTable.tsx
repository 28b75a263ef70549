import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import type { Figure, Track } from "../api/types";
import { atRiskAt, lastAtOrBefore } from "../numbers/atTime";
import { plain } from "../numbers/format";

const MOST_ROWS = 400;

/** The figure as a table: every line's value, and the numbers followed, at the event times. */
export function FigureTable({
  figure,
  shown,
  onClose,
}: {
  figure: Figure;
  shown: readonly Track[];
  onClose: () => void;
}) {
  const every = Math.ceil(figure.events.length / MOST_ROWS);
  const times = [0, ...figure.events.filter((_, k) => k % Math.max(every, 1) === 0)];
  const columns = shown.flatMap((track) => [
    ...track.lines.map((line) => ({
      key: `${track.id} ${line.label}`,
      head: `${track.title}: ${line.label}`,
      at: (t: number) => {
        const value = line.y[lastAtOrBefore(line.x, t)];
        const past = line.end !== null && line.end !== undefined && t > line.end;
        return value === null || value === undefined || past ? "" : plain(value, 4);
      },
    })),
    ...track.counts.map((row) => ({
      key: `${track.id} ${row.label}`,
      head: `${track.title}: ${row.label}`,
      at: (t: number) => String(atRiskAt(row.time, row.number, t)),
    })),
  ]);
  return (
    <Dialog open onClose={onClose} maxWidth="lg" aria-labelledby="figure-table-title">
      <DialogTitle id="figure-table-title">{figure.name}</DialogTitle>
      <DialogContent>
        {every > 1 ? <p className="quiet">Every {every}th event time is listed.</p> : null}
        <table className="figure-table">
          <thead>
            <tr>
              <th scope="col">{figure.time_label}</th>
              {columns.map((c) => (
                <th key={c.key} scope="col">
                  {c.head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {times.map((t) => (
              <tr key={t}>
                <th scope="row">{plain(t, 6)}</th>
                {columns.map((c) => (
                  <td key={c.key}>{c.at(t)}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

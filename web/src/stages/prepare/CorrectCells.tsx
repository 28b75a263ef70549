import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { useRows } from "../../api/queries";
import type { Finding } from "../../api/types";
import { ReasonField, Refused } from "../../frame/ReasonField";
import { AsWritten } from "./RowsTable";
import "./CorrectCells.css";

interface Correction {
  row: number;
  column: string;
  value: string;
}

interface Props {
  study: string;
  finding: Finding;
  busy: boolean;
  error: Error | null;
  onDecide: (corrections: Correction[], reason: string) => void;
  onClose: () => void;
}

/** Writing the right values into a finding's cells; blank makes a cell missing. */
export function CorrectCells({ study, finding, busy, error, onDecide, onClose }: Props) {
  const page = useRows(study, 0, 200, finding.rows.slice(0, 200)).data;
  const [values, setValues] = useState<Record<string, Correction>>({});
  const [reason, setReason] = useState("");
  const change = (row: number, column: string, value: string) =>
    setValues({ ...values, [`${row} ${column}`]: { row, column, value } });
  return (
    <Dialog open onClose={onClose} maxWidth="md" aria-labelledby="correct-title">
      <DialogTitle id="correct-title">Correct: {finding.title}</DialogTitle>
      <DialogContent>
        <table className="corrections">
          <Heads columns={finding.columns} />
          <tbody>
            {page?.rows.map((row) => (
              <tr key={row.number}>
                <th scope="row">{row.number}</th>
                {finding.columns.map((name) => {
                  const at = page.columns.indexOf(name);
                  const value = values[`${row.number} ${name}`]?.value ?? row.cells[at] ?? "";
                  return (
                    <td key={name}>
                      <TextField
                        value={value}
                        onChange={(event) => change(row.number, name, event.target.value)}
                        slotProps={{ htmlInput: { "aria-label": `Row ${row.number}, ${name}` } }}
                      />
                      <AsWritten text={row.as_written[at]} />
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
        <ReasonField reason={reason} onReason={setReason} />
        <Refused error={error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          disabled={busy || Object.keys(values).length === 0}
          onClick={() => onDecide(Object.values(values), reason.trim())}
        >
          Correct
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Heads({ columns }: { columns: readonly string[] }) {
  return (
    <thead>
      <tr>
        <th scope="col">row</th>
        {columns.map((name) => (
          <th key={name} scope="col">
            {name}
          </th>
        ))}
      </tr>
    </thead>
  );
}

import TextField from "@mui/material/TextField";
import "./ReasonField.css";

export const REASON = "Reason (goes into the decisions log and the report)";

/** Why something is decided: requested with every decision, never required. */
export function ReasonField({
  reason,
  onReason,
  first,
}: {
  reason: string;
  onReason: (reason: string) => void;
  first?: boolean;
}) {
  return (
    <TextField
      label={REASON}
      value={reason}
      autoFocus={first ?? false}
      fullWidth
      multiline
      minRows={2}
      margin="dense"
      onChange={(event) => onReason(event.target.value)}
    />
  );
}

/** What the server refused, in its own words. */
export function Refused({ error }: { error: Error | null | undefined }) {
  if (!error) return null;
  return (
    <p className="refusal" role="alert">
      {error.message}
    </p>
  );
}

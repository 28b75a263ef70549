import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { useState } from "react";

/** Asks why, before a decision is recorded; the reason may be left out. */
export function AskReason({
  title,
  act,
  busy,
  error,
  onDecide,
  onClose,
}: {
  title: string;
  act: string;
  busy: boolean;
  error?: Error | null;
  onDecide: (reason: string) => void;
  onClose: () => void;
}) {
  const [reason, setReason] = useState("");
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="reason-title">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onDecide(reason.trim());
        }}
      >
        <DialogTitle id="reason-title">{title}</DialogTitle>
        <DialogContent>
          <TextField
            label="Reason (goes into the decisions log and the report)"
            value={reason}
            autoFocus
            fullWidth
            multiline
            minRows={2}
            margin="dense"
            onChange={(event) => setReason(event.target.value)}
          />
          {error ? (
            <p className="refusal" role="alert">
              {error.message}
            </p>
          ) : null}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Not now</Button>
          <Button type="submit" variant="contained" disabled={busy}>
            {act}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

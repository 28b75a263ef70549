import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import { ReasonField, Refused } from "./ReasonField";

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
          <ReasonField reason={reason} onReason={setReason} first />
          <Refused error={error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={busy}>
            {act}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

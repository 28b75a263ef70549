import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { Refused } from "./ReasonField";

/** Asks for a few words that go into what is done. */
export function AskWords({
  title,
  question,
  act,
  start = "",
  busy,
  error,
  onSubmit,
  onClose,
}: {
  title: string;
  question: string;
  act: string;
  /** The words that are there already. */
  start?: string;
  busy: boolean;
  error?: Error | null;
  onSubmit: (words: string) => void;
  onClose: () => void;
}) {
  const [words, setWords] = useState(start);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="words-title">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onSubmit(words.trim());
        }}
      >
        <DialogTitle id="words-title">{title}</DialogTitle>
        <DialogContent>
          <TextField
            label={question}
            value={words}
            autoFocus
            fullWidth
            multiline
            minRows={2}
            margin="dense"
            slotProps={{ htmlInput: { maxLength: 500 } }}
            onChange={(event) => setWords(event.target.value)}
          />
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

import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useConflict } from "../api/conflicts";

/** Shows what was changed meanwhile, where a change was refused for it, and offers to make it again. */
export function ChangedMeanwhile() {
  const conflict = useConflict();
  if (!conflict) return null;
  return (
    <Dialog open onClose={() => conflict.answer(false)} aria-labelledby="meanwhile-title">
      <DialogTitle id="meanwhile-title">The study was changed meanwhile</DialogTitle>
      <DialogContent>
        <p>
          Your change was made from an older state of the study, so it was not taken. Meanwhile, in
          another window:
        </p>
        <ul>
          {conflict.changed.map((sentence, k) => (
            <li key={k}>{sentence}</li>
          ))}
        </ul>
        <p>The page now shows the study with these changes.</p>
      </DialogContent>
      <DialogActions>
        <Button onClick={() => conflict.answer(false)}>Leave my change</Button>
        <Button variant="contained" autoFocus onClick={() => conflict.answer(true)}>
          Make my change again
        </Button>
      </DialogActions>
    </Dialog>
  );
}

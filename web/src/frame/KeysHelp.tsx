import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import "./KeysHelp.css";

const KEYS = [
  ["1 … 6", "open a stage, from Prepare to Report"],
  ["[ ]", "the view before or after, of the stage that is open"],
  ["/", "find a stage, view, slot, step, export or act by its name"],
  ["Tab", "to the next part of the page, figure or number"],
  ["← → ↑ ↓", "among the stages, and among the marked words of the sentence"],
  ["Enter", "open a slot, or the workings of an underlined number"],
  ["← →", "on the sand line: to the previous or next event"],
  ["Shift ← →", "on the sand line: between round times"],
  ["Home, End", "on the sand line: to the start or end of follow-up"],
  ["Ctrl + wheel", "on a figure: a shorter or a longer part of the axis"],
  ["Shift + wheel", "on a figure: to the part before or after"],
  ["+ −", "on the sand line: a shorter or a longer part of the axis"],
  ["Page up, Page down", "on the sand line: to the part before or after"],
  ["0", "on the sand line: the whole axis"],
  ["Ctrl Z", "undo the last change to the study, in whichever stage it was made"],
  ["Shift Ctrl Z", "redo what was undone"],
  ["Esc", "close what is open"],
  ["?", "this list"],
] as const;

export function KeysHelp({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys</DialogTitle>
      <DialogContent>
        <dl className="keys">
          {KEYS.map(([key, words]) => (
            <div key={key}>
              <dt>{key}</dt>
              <dd>{words}</dd>
            </div>
          ))}
        </dl>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

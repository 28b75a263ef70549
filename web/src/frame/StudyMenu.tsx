import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { type FormEvent, lazy, Suspense, useState } from "react";
import { useNavigate } from "react-router";
import { useDeleteStudy, useDuplicateStudy, useRename } from "../api/changes";
import { showMessage } from "./messages";
import { Refused } from "./ReasonField";

const MAX_NAME_CHARACTERS = 200;
// What few open does not burden the first load.
const ApplyModel = lazy(async () => ({ default: (await import("./ApplyModel")).ApplyModel }));
const ApplyPlan = lazy(async () => ({ default: (await import("./ApplyPlan")).ApplyPlan }));

/** What can be done with a study as a whole: rename, duplicate, apply a plan or its model, delete. */
export function StudyMenu({
  study,
  name,
  label,
  onDeleted,
}: {
  study: string;
  name: string;
  label: string;
  onDeleted?: () => void;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [asking, setAsking] = useState<Asking | null>(null);
  const remove = useDeleteStudy();
  const act = (what: () => void) => () => {
    setAnchor(null);
    what();
  };
  return (
    <>
      <Button
        aria-haspopup="menu"
        aria-expanded={Boolean(anchor)}
        aria-label={`${label}: ${name}`}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        ⋯
      </Button>
      <Menu anchorEl={anchor} open={Boolean(anchor)} onClose={() => setAnchor(null)}>
        <MenuItem onClick={act(() => setAsking("rename"))}>Rename …</MenuItem>
        <MenuItem onClick={act(() => setAsking("duplicate"))}>Duplicate …</MenuItem>
        <MenuItem onClick={act(() => setAsking("plan"))}>Apply a plan …</MenuItem>
        <MenuItem onClick={act(() => setAsking("model"))}>
          Apply the model to another study …
        </MenuItem>
        <MenuItem
          onClick={act(() =>
            remove.mutate(study, {
              onSuccess: () => {
                showMessage({ words: `Deleted “${name}”.`, restore: study });
                onDeleted?.();
              },
              onError: (error) => showMessage({ words: error.message }),
            }),
          )}
        >
          Delete
        </MenuItem>
      </Menu>
      {asking ? (
        <AskingFor what={asking} study={study} name={name} onClose={() => setAsking(null)} />
      ) : null}
    </>
  );
}

type Asking = "rename" | "duplicate" | "plan" | "model";

interface Requested {
  study: string;
  name: string;
  onClose: () => void;
}

function AskingFor({ what, ...requested }: Requested & { what: Asking }) {
  switch (what) {
    case "rename":
      return <Rename {...requested} />;
    case "duplicate":
      return <Duplicate {...requested} />;
    default: {
      const Applying = what === "model" ? ApplyModel : ApplyPlan;
      return (
        <Suspense fallback={null}>
          <Applying study={requested.study} onClose={requested.onClose} />
        </Suspense>
      );
    }
  }
}

function Rename({ study, name, onClose }: Requested) {
  const rename = useRename(study);
  return (
    <AskName
      title="Rename the study"
      start={name}
      act="Rename"
      busy={rename.isPending}
      error={rename.error}
      onClose={onClose}
      onName={(next) => rename.mutate(next, { onSuccess: onClose })}
    />
  );
}

function Duplicate({ study, name, onClose }: Requested) {
  const duplicate = useDuplicateStudy();
  const navigate = useNavigate();
  return (
    <AskName
      title="Duplicate the study"
      start={`${name}, copy`.slice(0, MAX_NAME_CHARACTERS)}
      act="Duplicate"
      busy={duplicate.isPending}
      error={duplicate.error}
      onClose={onClose}
      onName={(next) =>
        duplicate.mutate(
          { study, name: next },
          {
            onSuccess: ({ id }) => {
              onClose();
              navigate(`/studies/${id}/prepare`);
            },
          },
        )
      }
    />
  );
}

function AskName({
  title,
  start,
  act,
  busy,
  error,
  onClose,
  onName,
}: {
  title: string;
  start: string;
  act: string;
  busy: boolean;
  error: Error | null;
  onClose: () => void;
  onName: (name: string) => void;
}) {
  const [name, setName] = useState(start);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) onName(name.trim());
  };
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth aria-labelledby="ask-name-title">
      <form onSubmit={submit}>
        <DialogTitle id="ask-name-title">{title}</DialogTitle>
        <DialogContent>
          <TextField
            label="Name of the study"
            value={name}
            autoFocus
            fullWidth
            margin="dense"
            slotProps={{ htmlInput: { maxLength: MAX_NAME_CHARACTERS } }}
            onChange={(event) => setName(event.target.value)}
          />
          <Refused error={error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!name.trim() || busy}>
            {act}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

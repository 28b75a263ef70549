import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import MenuList from "@mui/material/MenuList";
import { useEffect, useState } from "react";
import { useStepPreview, useTakeStep } from "../../../api/queries";
import type { ColumnReading, StepReading } from "../../../api/types";
import { ReasonField, Refused } from "../../../frame/ReasonField";
import { type Draft, KINDS, kindOf } from "./kinds";
import { ready } from "./ready";
import { StepEffect } from "./StepEffect";
import { StepField } from "./StepField";

const WAIT_MS = 250;

/** Writing a step as a sentence, with what it would do shown as it is written. */
export function StepEditor({
  study,
  columns,
  editing,
  onClose,
}: {
  study: string;
  columns: readonly ColumnReading[];
  editing: StepReading | null;
  onClose: () => void;
}) {
  const [draft, setDraft] = useState<Draft | null>(editing ? (editing.step as Draft) : null);
  const kind = draft ? kindOf(draft.kind) : undefined;
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="step-title">
      <DialogTitle id="step-title">{kind ? kind.title : "Add a step"}</DialogTitle>
      {draft && kind ? (
        <Written
          key={draft.kind}
          study={study}
          columns={columns}
          editing={editing}
          start={draft}
          onBack={editing ? null : () => setDraft(null)}
          onClose={onClose}
        />
      ) : (
        <DialogContent>
          <MenuList autoFocusItem className="step-kinds">
            {KINDS.map((k) => (
              <MenuItem key={k.kind} onClick={() => setDraft(k.start)}>
                <span className="option-label">{k.title}</span>
                <span className="option-note">{k.about}</span>
              </MenuItem>
            ))}
          </MenuList>
        </DialogContent>
      )}
    </Dialog>
  );
}

function Written({
  study,
  columns,
  editing,
  start,
  onBack,
  onClose,
}: {
  study: string;
  columns: readonly ColumnReading[];
  editing: StepReading | null;
  start: Draft;
  onBack: (() => void) | null;
  onClose: () => void;
}) {
  const [draft, setDraft] = useState(start);
  const [reason, setReason] = useState("");
  const take = useTakeStep(study);
  const taken = take.isPending || take.isSuccess;
  const settled = useSettled(ready(draft));
  const insteadOf = editing?.id ?? null;
  // Once it is taken there is nothing left to try, and the step it replaces is gone.
  const preview = useStepPreview(study, taken ? null : settled, insteadOf);
  const effect = settled ? preview.data : undefined;
  const body = ready(draft);
  const kind = kindOf(draft.kind);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (body)
          take.mutate({ step: body, reason: reason.trim(), insteadOf }, { onSuccess: onClose });
      }}
    >
      <DialogContent>
        <div className="step-sentence">
          {kind
            ?.parts(draft)
            .map((part, k) =>
              typeof part === "string" ? (
                <span key={k}>{part}</span>
              ) : (
                <StepField
                  key={`${part.field} ${part.at}`}
                  field={part}
                  draft={draft}
                  columns={columns}
                  broken={effect?.broken ?? ""}
                  onChange={(value) => setDraft({ ...draft, [part.field]: value })}
                />
              ),
            )}
        </div>
        <StepEffect effect={effect} error={settled ? preview.error : null} />
        <ReasonField reason={reason} onReason={setReason} />
        <Refused error={take.error} />
      </DialogContent>
      <DialogActions>
        {onBack ? <Button onClick={onBack}>Another kind</Button> : null}
        <Button onClick={onClose}>Cancel</Button>
        <Button
          type="submit"
          variant="contained"
          disabled={!body || take.isPending || Boolean(effect?.broken)}
        >
          {editing ? "Change step" : "Add step"}
        </Button>
      </DialogActions>
    </form>
  );
}

/** A value once it has stood still for a moment, so that not every key press asks the server. */
function useSettled<V>(value: V): V {
  const [settled, setSettled] = useState(value);
  const text = JSON.stringify(value);
  // biome-ignore lint/correctness/useExhaustiveDependencies: equal text is the same value
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), WAIT_MS);
    return () => clearTimeout(timer);
  }, [text]);
  return settled;
}

import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import MenuList from "@mui/material/MenuList";
import { useEffect, useState } from "react";
import { useTakeStep } from "../../../api/changes";
import { useStepForms, useStepPreview } from "../../../api/queries";
import type { ColumnView, StepForm, StepView } from "../../../api/types";
import { ReasonField, Refused } from "../../../frame/ReasonField";
import { type Draft, partsOf, ready } from "./ready";
import { StepEffect } from "./StepEffect";
import { StepField } from "./StepField";
import "./StepEditor.css";

const WAIT_MS = 250;

/** Writing a step as a sentence, with what it would do shown as it is written. */
export function StepEditor({
  study,
  columns,
  editing,
  onClose,
}: {
  study: string;
  columns: readonly ColumnView[];
  editing: StepView | null;
  onClose: () => void;
}) {
  const [draft, setDraft] = useState<Draft | null>(editing ? (editing.step as Draft) : null);
  const forms = useStepForms().data ?? [];
  const form = draft ? forms.find((one) => one.kind === draft.kind) : undefined;
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="step-title">
      <DialogTitle id="step-title">{form ? form.title : "Add a step"}</DialogTitle>
      {draft && form ? (
        <Written
          key={draft.kind}
          form={form}
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
            {forms.map((k) => (
              <MenuItem key={k.kind} onClick={() => setDraft(k.start as Draft)}>
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

interface WrittenProps {
  form: StepForm;
  study: string;
  columns: readonly ColumnView[];
  editing: StepView | null;
  start: Draft;
  onBack: (() => void) | null;
  onClose: () => void;
}

function Written({ form, study, columns, editing, start, onBack, onClose }: WrittenProps) {
  const [draft, setDraft] = useState(start);
  const [reason, setReason] = useState("");
  const take = useTakeStep(study);
  const sent = take.isPending || take.isSuccess;
  const settled = useSettled(ready(form, draft));
  const insteadOf = editing?.id ?? null;
  // Once it is sent there is nothing left to try, and the step it replaces is gone.
  const preview = useStepPreview(study, sent ? null : settled, insteadOf);
  const tried = settled ? preview.data : undefined;
  const effect = tried?.preview ?? undefined;
  const body = ready(form, draft);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (body)
          take.mutate({ step: body, reason: reason.trim(), insteadOf }, { onSuccess: onClose });
      }}
    >
      <DialogContent>
        <StepSentence
          form={form}
          draft={draft}
          columns={columns}
          broken={effect?.broken ?? ""}
          onDraft={setDraft}
        />
        <StepEffect
          effect={effect}
          work={tried?.work ?? null}
          error={settled ? preview.error : null}
        />
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

interface StepSentenceProps {
  form: StepForm;
  draft: Draft;
  columns: readonly ColumnView[];
  broken: string;
  onDraft: (draft: Draft) => void;
}

/** The step as a sentence with places to be filled. */
function StepSentence({ form, draft, columns, broken, onDraft }: StepSentenceProps) {
  return (
    <div className="step-sentence">
      {partsOf(form, draft).map((part, k) =>
        part.place ? (
          <StepField
            key={`${part.place.field} ${part.place.at}`}
            place={part.place}
            draft={draft}
            columns={columns}
            broken={broken}
            onChange={(value) => onDraft({ ...draft, [part.place?.field ?? ""]: value })}
          />
        ) : (
          <span key={k}>{part.words}</span>
        ),
      )}
    </div>
  );
}

/** A value once it has stood still for a moment, so that not every key press sends a request. */
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

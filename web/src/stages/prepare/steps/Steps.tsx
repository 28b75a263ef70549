import Button from "@mui/material/Button";
import Switch from "@mui/material/Switch";
import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import { useApplySteps, useArrangeSteps } from "../../../api/changes";
import { useStepForms } from "../../../api/queries";
import type { ColumnView, StepsDocument, StepView } from "../../../api/types";
import { ChooseDocument } from "../../../frame/ChooseDocument";
import { Refused } from "../../../frame/ReasonField";
import { grouped } from "../../../numbers/format";
import { Section } from "../../../readings/Readings";
import { StepEditor } from "./StepEditor";
import "./Steps.css";

/** The steps in order, each with what it did; switched off, moved and edited here. */
export function Steps({
  study,
  steps,
  columns,
}: {
  study: string;
  steps: readonly StepView[];
  columns: readonly ColumnView[];
}) {
  const arrange = useArrangeSteps(study);
  const forms = useStepForms().data ?? [];
  const [open, setOpen] = useState<StepView | "new" | null>(null);
  const requested = (useLocation().state as { step?: number } | null)?.step ?? null;
  const [chosen, setChosen] = useState<number | null>(requested);
  useEffect(() => setChosen(requested), [requested]);
  const put = (next: readonly StepView[]) =>
    arrange.mutate({ steps: next.map(({ id, active }) => ({ id, active })) });
  const move = (k: number, by: number) => {
    const next = [...steps];
    const [step] = next.splice(k, 1);
    if (step) {
      next.splice(k + by, 0, step);
      put(next);
    }
  };
  const busy = arrange.isPending;
  return (
    <Section title="Steps">
      {steps.length === 0 ? (
        <p className="quiet">No step yet. The file itself is never changed.</p>
      ) : null}
      <ol className="steps">
        {steps.map((step, k) => (
          <li key={step.id} className={step.active ? "" : "off"}>
            <div className="step-line">
              <button
                type="button"
                className="step-name"
                aria-expanded={chosen === step.id}
                onClick={() => setChosen(chosen === step.id ? null : step.id)}
              >
                {k + 1} {step.name}
              </button>
              <span className="quiet">{short(step)}</span>
            </div>
            {step.broken ? <p className="refusal">Cannot be carried out: {step.broken}</p> : null}
            {step.note && chosen === step.id ? <p className="quiet">{step.note}</p> : null}
            {chosen === step.id ? (
              <div className="step-acts">
                <Switch
                  size="small"
                  checked={step.active}
                  disabled={busy}
                  slotProps={{ input: { "aria-label": `On: ${step.name}` } }}
                  onChange={(event) =>
                    put(steps.map((s) => (s === step ? { ...s, active: event.target.checked } : s)))
                  }
                />
                {forms.some((form) => form.kind === step.step.kind) ? (
                  <Button aria-label={`Edit ${step.name}`} onClick={() => setOpen(step)}>
                    Edit
                  </Button>
                ) : null}
                <Button
                  disabled={k === 0 || busy}
                  aria-label={`Earlier: ${step.name}`}
                  onClick={() => move(k, -1)}
                >
                  ↑
                </Button>
                <Button
                  disabled={k === steps.length - 1 || busy}
                  aria-label={`Later: ${step.name}`}
                  onClick={() => move(k, 1)}
                >
                  ↓
                </Button>
                <Button
                  disabled={busy}
                  aria-label={`Remove ${step.name}`}
                  onClick={() => put(steps.filter((s) => s !== step))}
                >
                  Remove
                </Button>
              </div>
            ) : null}
          </li>
        ))}
      </ol>
      <div className="step-acts">
        <Button onClick={() => setOpen("new")}>Add step</Button>
      </div>
      <StepsInOut study={study} />
      <Refused error={arrange.error} />
      {open ? (
        <StepEditor
          study={study}
          columns={columns}
          editing={open === "new" ? null : open}
          onClose={() => setOpen(null)}
        />
      ) : null}
    </Section>
  );
}

function short(step: StepView): string {
  if (!step.active) return "off";
  if (step.broken) return "broken";
  if (step.rows_set_aside) return `−${grouped(step.rows_set_aside)}`;
  if (step.made) return step.made;
  return step.cells_changed ? `${grouped(step.cells_changed)} cells` : "—";
}

/** The steps as a document, and steps from one. */
function StepsInOut({ study }: { study: string }) {
  const apply = useApplySteps(study);
  const [unreadable, setUnreadable] = useState(false);
  const wrong = unreadable ? "This file is not a document of steps." : apply.error?.message;
  return (
    <div className="step-acts">
      <Button component="a" href={`/api/studies/${study}/steps.json`} download>
        Save steps
      </Button>
      <ChooseDocument
        words="Apply saved steps"
        label="File of steps"
        onChosen={(document, none) => {
          setUnreadable(none !== null);
          if (none === null) apply.mutate(document as StepsDocument);
        }}
      />
      {wrong ? (
        <p className="refusal" role="alert">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}

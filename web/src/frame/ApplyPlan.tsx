import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import { useApplyStudyPlan } from "../api/changes";
import { usePlanFit } from "../api/queries";
import type { StudyPlan } from "../api/types";
import "./ApplyPlan.css";
import { ChooseDocument } from "./ChooseDocument";
import { showMessage } from "./messages";
import { Refused } from "./ReasonField";

/** Chooses a plan, shows what of it fits the study's file, and applies it. */
export function ApplyPlan({ study, onClose }: { study: string; onClose: () => void }) {
  const [plan, setPlan] = useState<StudyPlan | null>(null);
  const [unreadable, setUnreadable] = useState<string | null>(null);
  const apply = useApplyStudyPlan(study);
  const wrong = unreadable
    ? new Error(`${unreadable} is no JSON document. A plan is saved from Report.`)
    : apply.error;
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="apply-plan-title">
      <DialogTitle id="apply-plan-title">Apply a plan</DialogTitle>
      <DialogContent>
        <p>
          A plan takes the place of the follow-up, the steps, the analyses and the report of this
          study; its name and its file stay. It can be undone, one decision after the other.
        </p>
        <ChooseDocument
          words={plan ? "Choose another plan" : "Choose the plan"}
          label="File of the plan"
          variant="outlined"
          onChosen={(document, none) => {
            apply.reset();
            setPlan(document as StudyPlan | null);
            setUnreadable(none);
          }}
        />
        <Refused error={wrong} />
        {plan ? <Fit study={study} plan={plan} /> : null}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!plan || apply.isPending}
          onClick={() =>
            plan &&
            apply.mutate(plan, {
              onSuccess: () => {
                showMessage({ words: `The plan “${plan.name}” is in place.` });
                onClose();
              },
            })
          }
        >
          Apply
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** A plan line by line, with why a part does not fit. */
function Fit({ study, plan }: { study: string; plan: StudyPlan }) {
  const { data, error } = usePlanFit(study, plan);
  if (error) return <Refused error={error} />;
  if (!data) return <p className="quiet">Reading the plan …</p>;
  if (data.work) return <p className="quiet">Trying it on the file: {data.work.what} …</p>;
  if (!data.fit) {
    return (
      <p>
        The study has no file yet. The plan waits for it: the file is read, prepared and analysed as
        it states.
      </p>
    );
  }
  return (
    <>
      <p role="status">{data.fit.words}</p>
      <table className="plan-fit">
        <caption className="sr">What of the plan fits the file</caption>
        <thead>
          <tr>
            <th scope="col">Part</th>
            <th scope="col">States</th>
            <th scope="col">Fits</th>
          </tr>
        </thead>
        <tbody>
          {data.fit.lines.map((line, k) => (
            // Lines have no names of their own, and never move.
            <tr key={k}>
              <th scope="row">{line.part}</th>
              <td>{line.states}</td>
              <td>{line.why ? `no: ${line.why}` : "yes"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

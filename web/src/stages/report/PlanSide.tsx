import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import { useSealPlan } from "../../api/changes";
import { usePlanInPlace } from "../../api/queries";
import { Refused } from "../../frame/ReasonField";
import { Section } from "../../readings/Readings";

/** The study as a plan: saved, sealed, and what departs from the sealed one. */
export function PlanSide({ study }: { study: string }) {
  const [asking, setAsking] = useState(false);
  const place = usePlanInPlace(study).data;
  if (!place) return null;
  return (
    <Section title="Plan">
      {place.sealed_at ? (
        <p>
          Sealed on {place.sealed_at.slice(0, 10)}.{" "}
          <a className="to-piece" href="#piece-plan">
            {place.words}
          </a>
        </p>
      ) : (
        <p className="quiet">
          Not sealed: nothing shows what was planned before results were seen.
        </p>
      )}
      <ul className="plain-list">
        <li>
          <Save study={study} file="plan.json" words="Save the plan" />
          <span className="quiet">to run again on next month’s file</span>
        </li>
        {place.sealed_at ? (
          <li>
            <Save study={study} file="sealed-plan.json" words="Save the sealed plan" />
          </li>
        ) : null}
        <li>
          <Button onClick={() => setAsking(true)} sx={{ minWidth: 0 }}>
            {place.sealed_at ? "Seal it anew" : "Seal the plan"}
          </Button>
        </li>
      </ul>
      {asking ? <AskSeal study={study} onClose={() => setAsking(false)} /> : null}
    </Section>
  );
}

function Save({ study, file, words }: { study: string; file: string; words: string }) {
  return (
    <Button component="a" href={`/api/studies/${study}/${file}`} download sx={{ minWidth: 0 }}>
      {words}
    </Button>
  );
}

/** Explains what a seal is before it is set. */
function AskSeal({ study, onClose }: { study: string; onClose: () => void }) {
  const seal = useSealPlan(study);
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth aria-labelledby="seal-title">
      <DialogTitle id="seal-title">Seal the plan</DialogTitle>
      <DialogContent>
        <p>
          The follow-up, the steps, the analyses and the models as they stand now are kept with the
          date and a hash. From now on the report states when that was, before or after the data
          were read, and lists whatever is decided otherwise.
        </p>
        <Refused error={seal.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          disabled={seal.isPending}
          onClick={() => seal.mutate(null, { onSuccess: onClose })}
        >
          Seal
        </Button>
      </DialogActions>
    </Dialog>
  );
}

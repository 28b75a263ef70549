import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useWithdraw } from "../api/changes";
import { useDecisions, useStudy } from "../api/queries";
import type { Decision } from "../api/types";
import { Refused } from "./ReasonField";
import "./DecisionsLog.css";

/** What was decided, from what to what, why and when. What no longer stands stays, struck through. */
export function DecisionsLog({ study, onClose }: { study: string; onClose: () => void }) {
  const decisions = useDecisions(study, true).data?.decisions;
  const stages = useStudy(study).data?.stages ?? [];
  const withdraw = useWithdraw(study);
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="log-title">
      <DialogTitle id="log-title">Decisions log</DialogTitle>
      <DialogContent>
        <Refused error={withdraw.error} />
        {decisions?.length === 0 ? <p>Nothing has been decided yet.</p> : null}
        <ol className="log">
          {decisions?.map((d) => (
            <li key={d.id} className={d.gone_at ? "gone" : ""}>
              <Entry
                decision={d}
                stage={stages.find((line) => line.stage === d.stage)?.title ?? d.stage}
              />
              {d.can_withdraw ? (
                <Button
                  aria-label={`Withdraw: ${d.sentence}`}
                  disabled={withdraw.isPending}
                  onClick={() => withdraw.mutate(d.id)}
                >
                  Withdraw
                </Button>
              ) : null}
            </li>
          ))}
        </ol>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

/** As dates are written everywhere: "1 December 2026 at 14:05", in the time of whoever looks. */
const WRITTEN_OUT = { dateStyle: "long", timeStyle: "short" } as const;

function Entry({ decision, stage }: { decision: Decision; stage: string }) {
  const at = (time: string) => new Date(time).toLocaleString("en-GB", WRITTEN_OUT);
  return (
    <div>
      <span className="log-sentence">{decision.sentence}</span>
      {decision.before && !decision.sentence.includes(decision.before) ? (
        <span>before: {decision.before}</span>
      ) : null}
      {decision.reason ? <q>{decision.reason}</q> : null}
      <span className="quiet">
        {stage}, {at(decision.made_at)}
        {decision.gone_at ? ` · undone or withdrawn ${at(decision.gone_at)}` : ""}
      </span>
    </div>
  );
}

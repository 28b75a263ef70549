import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useDecisions, useWithdraw } from "../api/queries";
import { Refused } from "./ReasonField";
import "./DecisionsLog.css";

/** What was decided and why, as the report tells it. Withdrawn entries stay, struck through. */
export function DecisionsLog({ study, onClose }: { study: string; onClose: () => void }) {
  const decisions = useDecisions(study, true);
  const withdraw = useWithdraw(study);
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="log-title">
      <DialogTitle id="log-title">Decisions log</DialogTitle>
      <DialogContent>
        <Refused error={withdraw.error} />
        {decisions.data?.length === 0 ? <p>Nothing has been decided yet.</p> : null}
        <ol className="log">
          {decisions.data?.map((d) => (
            <li key={d.id} className={d.withdrawn_at ? "withdrawn" : ""}>
              <div>
                <span>{d.sentence}</span>
                {d.reason ? <q>{d.reason}</q> : null}
                <span className="quiet">
                  {d.stage}, {new Date(d.made_at).toLocaleString()}
                  {d.withdrawn_at ? " · withdrawn" : ""}
                </span>
              </div>
              {d.withdrawn_at ? null : (
                <Button
                  aria-label={`Withdraw: ${d.sentence}`}
                  disabled={withdraw.isPending}
                  onClick={() => withdraw.mutate(d.id)}
                >
                  Withdraw
                </Button>
              )}
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

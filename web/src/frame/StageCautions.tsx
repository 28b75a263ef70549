import Button from "@mui/material/Button";
import { useState } from "react";
import { useDecide } from "../api/changes";
import { useDecisions } from "../api/queries";
import type { Caution as CautionText } from "../api/types";
import { Caution } from "../readings/Readings";
import { AskReason } from "./AskReason";

/** The cautions of a stage; each can be accepted with a reason, which the report then shows. */
export function StageCautions({
  study,
  stage,
  cautions,
}: {
  study: string;
  stage: string;
  cautions: readonly CautionText[];
}) {
  const decisions = useDecisions(study, cautions.length > 0).data?.decisions ?? [];
  const decide = useDecide(study);
  const [requested, setRequested] = useState<CautionText | null>(null);
  const accepted = (caution: CautionText) =>
    decisions.find((d) => d.about === `caution: ${caution.key}` && !d.gone_at);
  return (
    <>
      {cautions.map((caution) => {
        const decision = accepted(caution);
        return (
          <Caution key={caution.key} caution={caution}>
            {decision ? (
              <p className="accepted">Accepted{decision.reason ? `: ${decision.reason}` : "."}</p>
            ) : (
              <Button
                onClick={() => setRequested(caution)}
                aria-label={`Accept, with a reason: ${caution.lead}`}
              >
                Accept, with a reason
              </Button>
            )}
          </Caution>
        );
      })}
      {requested ? (
        <AskReason
          title={`${requested.lead} ${requested.sentence}`}
          act="Accept"
          busy={decide.isPending}
          error={decide.error}
          onClose={() => setRequested(null)}
          onDecide={(reason) =>
            decide.mutate(
              {
                stage,
                about: `caution: ${requested.key}`,
                choice: "accept",
                sentence: `Accepted: ${requested.sentence}`,
                reason,
              },
              { onSuccess: () => setRequested(null) },
            )
          }
        />
      ) : null}
    </>
  );
}

import Button from "@mui/material/Button";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useDecide, useStatement } from "../../api/changes";
import type { Action, Statement } from "../../api/types";
import { AskReason } from "../AskReason";
import "./ActionBlock.css";

/** Something that can be done about what was found. */
export function ActionBlock({ study, action }: { study: string; action: Action }) {
  const navigate = useNavigate();
  const decide = useDecide(study);
  const put = useStatement(study);
  const [asking, setAsking] = useState(false);
  const act = async () => {
    if (action.do === "decide") {
      setAsking(true);
      return;
    }
    if (action.do === "state") await put.mutateAsync(action.statement as Statement);
    navigate(`/studies/${study}/${action.stage}`);
  };
  return (
    <div className="remedy">
      <p>{action.sentence}</p>
      <Button variant="outlined" disabled={put.isPending} onClick={() => void act()}>
        {action.label}
      </Button>
      {asking ? (
        <AskReason
          title={action.sentence}
          act="Keep"
          busy={decide.isPending}
          error={decide.error}
          onClose={() => setAsking(false)}
          onDecide={(reason) =>
            decide.mutate(
              {
                stage: action.stage,
                about: action.about,
                choice: "keep",
                sentence: action.sentence,
                reason,
              },
              { onSuccess: () => setAsking(false) },
            )
          }
        />
      ) : null}
    </div>
  );
}

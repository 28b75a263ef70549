import Button from "@mui/material/Button";
import { useState } from "react";
import { useDecideLayout } from "../../api/changes";
import type { PrepareResult } from "../../api/types";
import { AskReason } from "../../frame/AskReason";
import "./Layouts.css";

const WORDS: Record<string, string> = {
  "one row each": "one row for each subject",
  counts: "one row for many identical subjects, with their count",
  tallies: "tallies of events and censorings at each time",
  "a status for each group": "one column of times, a status column for each group",
  spells: "several rows for each subject, each from an entry to an end",
  happenings: "a log of dated happenings",
  parameters: "the analysis layout of clinical trials: parameter, value, censoring flag",
};

/** The layouts the table may have, each with what speaks for it; a person confirms one. */
export function Layouts({ study, layouts }: { study: string; layouts: PrepareResult["layouts"] }) {
  const decide = useDecideLayout(study);
  const [asked, setAsked] = useState<string | null>(null);
  if (layouts.length === 0) return null;
  return (
    <section className="layouts" aria-label="Layout of the table">
      <h2>Layout of the table</h2>
      <ul>
        {layouts.map(({ layout, reason }) => (
          <li key={layout}>
            <span>
              <b>{WORDS[layout] ?? layout}</b>
              <span className="quiet">{reason}</span>
            </span>
            <Button
              variant="outlined"
              aria-label={`Apply: ${WORDS[layout] ?? layout}`}
              onClick={() => setAsked(layout)}
            >
              Apply
            </Button>
          </li>
        ))}
      </ul>
      {asked ? (
        <AskReason
          title={`The table has ${WORDS[asked] ?? asked}`}
          act="Confirm"
          busy={decide.isPending}
          error={decide.error}
          onClose={() => {
            setAsked(null);
            decide.reset();
          }}
          onDecide={(reason) =>
            decide.mutate({ layout: asked, reason }, { onSuccess: () => setAsked(null) })
          }
        />
      ) : null}
    </section>
  );
}

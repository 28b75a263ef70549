import Button from "@mui/material/Button";
import { useState } from "react";
import { useDecideLayout } from "../../api/changes";
import type { PrepareResult } from "../../api/types";
import { AskReason } from "../../frame/AskReason";
import "./Layouts.css";

/** The layouts the table may have, each with what speaks for it; a person confirms one. */
export function Layouts({ study, layouts }: { study: string; layouts: PrepareResult["layouts"] }) {
  const decide = useDecideLayout(study);
  const [asked, setAsked] = useState<{ layout: string; label: string } | null>(null);
  if (layouts.length === 0) return null;
  return (
    <section className="layouts" aria-label="Layout of the table">
      <h2>Layout of the table</h2>
      <ul>
        {layouts.map(({ layout, label, reason }) => (
          <li key={layout}>
            <span>
              <b>{label}</b>
              <span className="quiet">{reason}</span>
            </span>
            <Button
              variant="outlined"
              aria-label={`Apply: ${label}`}
              onClick={() => setAsked({ layout, label })}
            >
              Apply
            </Button>
          </li>
        ))}
      </ul>
      {asked ? (
        <AskReason
          title={`The table has ${asked.label}`}
          act="Confirm"
          busy={decide.isPending}
          error={decide.error}
          onClose={() => {
            setAsked(null);
            decide.reset();
          }}
          onDecide={(reason) =>
            decide.mutate({ layout: asked.layout, reason }, { onSuccess: () => setAsked(null) })
          }
        />
      ) : null}
    </section>
  );
}

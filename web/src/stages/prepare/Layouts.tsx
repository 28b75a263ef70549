import Button from "@mui/material/Button";
import { useState } from "react";
import { useDecideLayout } from "../../api/changes";
import type { PrepareResult } from "../../api/types";
import { AskReason } from "../../frame/AskReason";
import "./Layouts.css";

/** The layouts the table may have, each with what speaks for it; a person confirms one. */
export function Layouts({ study, layouts }: { study: string; layouts: PrepareResult["layouts"] }) {
  const decide = useDecideLayout(study);
  const [requested, setRequested] = useState<{ layout: string; label: string } | null>(null);
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
              onClick={() => setRequested({ layout, label })}
            >
              Apply
            </Button>
          </li>
        ))}
      </ul>
      {requested ? (
        <AskReason
          title={`The table has ${requested.label}`}
          act="Confirm"
          busy={decide.isPending}
          error={decide.error}
          onClose={() => {
            setRequested(null);
            decide.reset();
          }}
          onDecide={(reason) =>
            decide.mutate(
              { layout: requested.layout, reason },
              { onSuccess: () => setRequested(null) },
            )
          }
        />
      ) : null}
    </section>
  );
}

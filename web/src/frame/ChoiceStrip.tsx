import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";
import { useStatement } from "../api/changes";
import { setAt } from "../api/setAt";
import type { ChoiceAct, ChoiceItem, Choices, Statement } from "../api/types";
import { Shape } from "../readings/Readings";
import { AskWords } from "./AskWords";
import "./ChoiceStrip.css";

/** What can be chosen above a statement: each choice puts the statement that it comes with. */
export function ChoiceStrip({ study, choices }: { study: string; choices: Choices }) {
  const put = useStatement(study);
  const [asking, setAsking] = useState<ChoiceAct | null>(null);
  const act = (one: ChoiceAct) =>
    one.question ? setAsking(one) : put.mutate(one.statement as unknown as Statement);
  if (!choices.items.length && !choices.offers.length) return null;
  return (
    <nav className="choice-strip" aria-label={choices.label}>
      <ul>
        {choices.items.map((choice) => (
          <li key={`${choice.key}${choice.words}`}>
            <ChoiceButton choice={choice} onAct={act} />
          </li>
        ))}
      </ul>
      {choices.offers.map((offer) => (
        <Button key={offer.label} disabled={put.isPending} onClick={() => act(offer)}>
          {offer.label}
        </Button>
      ))}
      {asking ? (
        <AskWords
          title={asking.label}
          question={asking.question}
          act="Apply"
          busy={put.isPending}
          error={put.error}
          onClose={() => setAsking(null)}
          onSubmit={(words) =>
            put.mutate(
              setAt(asking.statement, {
                field: asking.field,
                value: words,
              }) as unknown as Statement,
              {
                onSuccess: () => setAsking(null),
              },
            )
          }
        />
      ) : null}
    </nav>
  );
}

function ChoiceButton({ choice, onAct }: { choice: ChoiceItem; onAct: (act: ChoiceAct) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const opens = choice.opens;
  const name = [choice.key, choice.words].filter(Boolean).join(": ");
  return (
    <div className={choice.chosen ? "choice chosen" : "choice"} title={choice.below}>
      <button
        type="button"
        className="choice-open"
        aria-current={choice.chosen ? "true" : undefined}
        onClick={() => (opens ? onAct(opens) : undefined)}
      >
        {choice.verdict ? <Shape verdict={choice.verdict} /> : null}
        {choice.key ? <b>{choice.key}</b> : null}
        {choice.mark ? <span className="choice-mark">{choice.mark}</span> : null}
        <span className="choice-words">{choice.words}</span>
      </button>
      {choice.acts.length ? (
        <button
          type="button"
          className="choice-more"
          aria-haspopup="menu"
          aria-label={`More for ${name}`}
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          ⋯
        </button>
      ) : null}
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {choice.acts.map((one) => (
          <MenuItem
            key={one.label}
            onClick={() => {
              setAnchor(null);
              onAct(one);
            }}
          >
            {one.label}
          </MenuItem>
        ))}
      </Menu>
    </div>
  );
}

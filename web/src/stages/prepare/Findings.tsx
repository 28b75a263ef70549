import Button from "@mui/material/Button";
import { useState } from "react";
import { useDecideFinding } from "../../api/changes";
import { useMoves } from "../../api/queries";
import type { Choice, Finding } from "../../api/types";
import { AskReason } from "../../frame/AskReason";
import { Refused } from "../../frame/ReasonField";
import { Working } from "../../frame/StagePage";
import { Section } from "../../readings/Readings";
import { CorrectCells } from "./CorrectCells";
import { SideBySide } from "./SideBySide";
import { SmallPicture } from "./SmallPicture";
import "./Findings.css";

/** What Prepare noticed, with what can be decided; the program decides nothing. */
export function Findings({
  study,
  findings,
  movesLater,
  marked,
  onMark,
}: {
  study: string;
  findings: readonly Finding[];
  /** What choices do to the median is still to be worked out. */
  movesLater: boolean;
  marked: number[] | null;
  onMark: (rows: number[] | null) => void;
}) {
  const decide = useDecideFinding(study);
  const moves = useMoves(study, movesLater).data;
  const later = (finding: Finding) =>
    (moves?.moves ?? []).filter((one) => one.finding === finding.key);
  const [requested, setRequested] = useState<{ finding: Finding; choice: Choice } | null>(null);
  const close = () => {
    setRequested(null);
    decide.reset();
  };
  const onChoose = (finding: Finding, choice: Choice) =>
    choice.at_once
      ? decide.mutate({ finding: finding.key, choice: choice.name, reason: "", corrections: [] })
      : setRequested({ finding, choice });
  const choose = (finding: Finding) => (choice: Choice) => (
    <Button
      key={choice.name}
      variant="outlined"
      disabled={decide.isPending}
      aria-label={`${choice.label}: ${finding.title}`}
      onClick={() => onChoose(finding, choice)}
    >
      {choice.label}
    </Button>
  );
  const folded = findings.filter((finding) => finding.folded);
  const article = (finding: Finding) => (
    <article key={finding.key} className="finding">
      <h3>{finding.title}</h3>
      {finding.why ? <p className="quiet">{finding.why}</p> : null}
      <SmallPicture
        curves={finding.picture}
        under={(name) => finding.choices.filter((c) => c.name === name).map(choose(finding))}
      />
      {finding.beside.map((rows) => (
        <SideBySide key={rows.name} rows={rows} />
      ))}
      <div>
        {finding.choices
          .filter(({ name }) => !finding.picture.some((curve) => curve.choice === name))
          .map(choose(finding))}
        {finding.rows.length ? (
          <Button
            aria-pressed={marked === finding.rows}
            aria-label={`Show rows: ${finding.title}`}
            onClick={() => onMark(finding.rows)}
          >
            Show rows
          </Button>
        ) : null}
      </div>
      {finding.choices.map(({ name, moves }) =>
        moves ? (
          <p key={name} className="moves">
            {moves}
          </p>
        ) : null,
      )}
      {later(finding).map(({ choice, words }) => (
        <p key={choice} className="moves">
          {words}
        </p>
      ))}
      {finding.parts.length ? (
        <details className="finding-parts">
          <summary>Look at each of the {finding.parts.length}</summary>
          {finding.parts.map(article)}
        </details>
      ) : null}
    </article>
  );
  return (
    <Section
      title={
        <>
          Findings to decide{" "}
          {findings.length ? <span className="open-count">{findings.length} open</span> : null}
        </>
      }
    >
      {findings.length === 0 ? <p className="quiet">Nothing is left to decide.</p> : null}
      {movesLater && moves?.work ? <Working work={moves.work} over /> : null}
      {requested ? null : <Refused error={decide.error} />}
      {findings.filter((finding) => !finding.folded).map(article)}
      {folded.length ? (
        <details className="folded-findings">
          <summary>
            {folded.length} more that {folded.length === 1 ? "changes" : "change"} no curve by{" "}
            {folded.length === 1 ? "itself" : "themselves"}
          </summary>
          {folded.map(article)}
        </details>
      ) : null}
      {requested && requested.choice.name !== "correct" ? (
        <AskReason
          title={`${requested.finding.title}: ${requested.choice.label.toLowerCase()}`}
          act={requested.choice.label}
          busy={decide.isPending}
          error={decide.error}
          onClose={close}
          onDecide={(reason) =>
            decide.mutate(
              {
                finding: requested.finding.key,
                choice: requested.choice.name,
                reason,
                corrections: [],
              },
              { onSuccess: close },
            )
          }
        />
      ) : null}
      {requested?.choice.name === "correct" ? (
        <CorrectCells
          study={study}
          finding={requested.finding}
          busy={decide.isPending}
          error={decide.error}
          onClose={close}
          onDecide={(corrections, reason) =>
            decide.mutate(
              { finding: requested.finding.key, choice: "correct", reason, corrections },
              { onSuccess: close },
            )
          }
        />
      ) : null}
    </Section>
  );
}

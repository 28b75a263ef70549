import Button from "@mui/material/Button";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useDecide, usePutStatement } from "../../api/queries";
import type { CheckResult, Remedy, TermCheck } from "../../api/types";
import { AskReason } from "../../frame/AskReason";
import { LaterStage } from "../../frame/LaterStage";
import { interval, pValue, ratio, statistic } from "../../numbers/format";
import { Numbers, Readings, Section, Shape } from "../../readings/Readings";
import { TimeField } from "../../readings/TimeField";
import { useSandTime } from "../../sand/sandTime";
import { TrackFigure } from "../../tracks/TrackFigure";
import "./check.css";

/** Does each ratio stay the same over time. */
export function Check({ study }: { study: string }) {
  return (
    <LaterStage
      study={study}
      stage="check"
      title="Check"
      hint="each dot is one event: the ratio it speaks for by itself"
      context={(result) => result.model || result.cohort.line}
      view={(result) => ({
        main: <Courses study={study} result={result} />,
        readings: <CheckReadings study={study} result={result} />,
      })}
    />
  );
}

/** A ratio at a time, between the points where its smooth is known. */
function at(times: readonly number[], values: readonly (number | null)[], t: number) {
  const first = times[0];
  const last = times.at(-1);
  if (first === undefined || last === undefined || t < first || t > last) return null;
  const k = Math.min(
    times.findIndex((u) => u >= t),
    times.length - 1,
  );
  const [u, v] = [times[Math.max(k - 1, 0)] as number, times[k] as number];
  const [a, b] = [values[Math.max(k - 1, 0)], values[k]];
  if (a === null || b === null || a === undefined || b === undefined) return null;
  const share = v === u ? 1 : (t - u) / (v - u);
  return Math.exp(Math.log(a) * (1 - share) + Math.log(b) * share);
}

function coursesAt(terms: readonly TermCheck[], t: number) {
  return terms.flatMap((term) =>
    term.courses.map((c) => ({
      key: c.column,
      name: c.label === term.name ? term.label : `${c.label}`,
      now: at(c.time, c.ratio, t),
      lower: at(c.time, c.lower, t),
      upper: at(c.time, c.upper, t),
      constant: c.constant,
    })),
  );
}

function Courses({ study, result }: { study: string; result: CheckResult }) {
  if (!result.figure) return <p className="notice">{result.blank}</p>;
  return (
    <>
      <TrackFigure
        study={study}
        view="check"
        figure={result.figure}
        unit={result.cohort.unit}
        digits={result.cohort.time_digits}
        start={Math.round(result.figure.end / 3)}
        say={(t) =>
          coursesAt(result.terms, t)
            .map((c) => `${c.name}: hazard ratio then ${ratio(c.now)}`)
            .join("; ")
        }
      />
      <p className="quiet check-note">
        Dots: scaled Schoenfeld residuals, one an event. Line: a restricted cubic spline through
        them with its pointwise 95% band. Dashed: the single ratio of the model. A line that stays
        near the dashed one speaks for a constant ratio; no sign of change is no proof of it.
      </p>
    </>
  );
}

function CheckReadings({ study, result }: { study: string; result: CheckResult }) {
  const end = result.figure?.end ?? 0;
  const t = useSandTime(study, end, Math.round(end / 3));
  if (result.blank) return <Readings>{null}</Readings>;
  return (
    <Readings>
      <Section title="Test of proportional hazards">
        <Numbers
          label="Test of proportional hazards"
          head={["", "χ²", "df", "p"]}
          rows={[
            ...result.terms.map((term) => [
              {
                text: (
                  <>
                    <Shape verdict={term.verdict} />
                    {term.label}
                    <span className="verdict">{verdictWords(term)}</span>
                  </>
                ),
                strong: term.verdict === "fails" || term.verdict === "in doubt",
              },
              statistic(term.test.statistic),
              String(term.test.df || "—"),
              pValue(term.test.p),
            ]),
            [
              "all together",
              statistic(result.together?.statistic),
              String(result.together?.df || "—"),
              pValue(result.together?.p),
            ],
          ]}
        />
        <p className="quiet">
          ● holds: no sign of change (p 0.05 or more) · ◐ in doubt: p below 0.05 · ○ fails: p below
          0.01. With few events a change may go unseen; with many a small one may show.
        </p>
      </Section>
      <Section
        title={
          <TimeField
            study={study}
            t={t}
            end={end}
            unit={result.cohort.unit}
            digits={result.cohort.time_digits}
          />
        }
      >
        <Numbers
          label="Ratios at this time"
          head={["ratio", "then (smooth)", "in the model"]}
          rows={coursesAt(result.terms, t).map((c) => [
            c.name,
            c.now === null ? "—" : `${ratio(c.now)} (${interval(c.lower, c.upper, ratio)})`,
            ratio(c.constant),
          ])}
        />
      </Section>
      {result.remedies.length ? (
        <Section title="Remedies">
          {result.remedies.map((remedy) => (
            <RemedyLine key={remedy.sentence} study={study} remedy={remedy} />
          ))}
        </Section>
      ) : null}
    </Readings>
  );
}

function verdictWords(term: TermCheck): string {
  if (term.verdict === "unknown") return term.test.blank ?? "cannot be told";
  return term.verdict === "holds" ? "holds" : `${term.verdict}, ${term.course}`;
}

function RemedyLine({ study, remedy }: { study: string; remedy: Remedy }) {
  const navigate = useNavigate();
  const decide = useDecide(study);
  const put = usePutStatement(study);
  const [asking, setAsking] = useState(false);
  const act = async () => {
    if (remedy.act === "keep") {
      setAsking(true);
      return;
    }
    if (remedy.act === "compare")
      await put.mutateAsync({
        stage: "compare",
        version: 1,
        by: remedy.term,
        reference: null,
        contrast: null,
        level: 0.95,
      });
    navigate(`/studies/${study}/${remedy.act}`);
  };
  return (
    <div className="remedy">
      <p>{remedy.sentence}</p>
      <Button variant="outlined" onClick={() => void act()}>
        {remedy.label}
      </Button>
      {asking ? (
        <AskReason
          title={remedy.sentence}
          act="Keep"
          busy={decide.isPending}
          error={decide.error}
          onClose={() => setAsking(false)}
          onDecide={(reason) =>
            decide.mutate(
              {
                stage: "check",
                about: `not proportional: ${remedy.term}`,
                choice: "keep",
                sentence: remedy.sentence,
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

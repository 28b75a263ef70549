import type { CohortSummary, CurveReading } from "../api/types";
import { curveAt } from "../numbers/atTime";
import { interval, NOT_REACHED, percent, shareOf100, time, whole } from "../numbers/format";
import { WorkedNumber } from "../workings/workings";
import { Caution, Numbers, Section } from "./Readings";
import { TimeField } from "./TimeField";

const FEW = 10;

/** Everything the curves say at the sand line's time. */
export function AtTime({
  study,
  curves,
  cohort,
  t,
  end,
  extra,
}: {
  study: string;
  curves: readonly CurveReading[];
  cohort: CohortSummary;
  t: number;
  end: number;
  extra?: readonly (readonly string[])[];
}) {
  const alone = curves.length === 1 && curves[0]?.tone === -1;
  const read = curves.map((curve) => ({ curve, at: curveAt(curve, t) }));
  const few = read.filter(({ at }) => at.atRisk < FEW);
  return (
    <Section
      title={
        <TimeField study={study} t={t} end={end} unit={cohort.unit} digits={cohort.time_digits} />
      }
    >
      <Numbers
        label="At this time"
        head={["", "free", "interval", "at risk", ...(alone ? ["events"] : [])]}
        rows={[
          ...read.map(({ curve, at }) => [
            alone ? "everyone" : { text: curve.label, tone: curve.tone },
            at.survival === null ? (
              "—"
            ) : (
              <WorkedNumber
                key="s"
                of={{ figure: "survival", t, group: alone ? null : curve.tone }}
              >
                {percent(at.survival)}
              </WorkedNumber>
            ),
            at.lower === null || at.upper === null
              ? "none"
              : `${shareOf100(at.lower)}–${shareOf100(at.upper)}`,
            whole(at.atRisk),
            ...(alone ? [whole(at.events)] : []),
          ]),
          ...(extra ?? []),
        ]}
      />
      {read.some(({ at }) => at.survival === null) ? (
        <p className="quiet">A curve is not read past the last time at which anybody was seen.</p>
      ) : null}
      {few.length ? (
        <Caution
          caution={{
            key: "few at this time",
            lead: "Read with care.",
            sentence: `At this time fewer than ${FEW} ${cohort.rows_are} are at risk${
              alone ? "" : ` in ${few.map(({ curve }) => curve.label).join(" and ")}`
            }.`,
          }}
        />
      ) : null}
    </Section>
  );
}

/** A median that opens its workings; "not reached" in words. */
export function Median({ curve, digits }: { curve: CurveReading; digits: number }) {
  const median = curve.quartiles.find((q) => q.q === 0.5);
  return (
    <WorkedNumber of={{ figure: "median", group: curve.tone < 0 ? null : curve.tone }}>
      {median?.time === null ? NOT_REACHED : time(median?.time, digits)}
    </WorkedNumber>
  );
}

/** The interval of a quantile, in words where a limit is not reached. */
export function quantileInterval(curve: CurveReading, q: number, digits: number): string {
  const found = curve.quartiles.find((one) => one.q === q);
  return interval(found?.lower, found?.upper, (v) => time(v, digits));
}

/** What is read at a time, in a sentence for a screen reader. */
export function sayAt(curves: readonly CurveReading[], t: number): string {
  return curves
    .map((curve) => {
      const at = curveAt(curve, t);
      return `${curve.label}: ${percent(at.survival)} free, ${at.atRisk} at risk`;
    })
    .join("; ");
}

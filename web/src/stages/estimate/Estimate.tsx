import type { EstimateResult } from "../../api/types";
import { LaterStage } from "../../frame/LaterStage";
import { StageCautions } from "../../frame/StageCautions";
import { interval, percent, shareOf100, time, whole } from "../../numbers/format";
import { AtTime, Median, quantileInterval, sayAt } from "../../readings/CurveReadings";
import { Numbers, Readings, Section } from "../../readings/Readings";
import { useSandTime } from "../../sand/sandTime";
import { TrackFigure } from "../../tracks/TrackFigure";
import { WorkedNumber } from "../../workings/workings";

/** Survival of everyone. */
export function Estimate({ study }: { study: string }) {
  return (
    <LaterStage
      study={study}
      stage="estimate"
      title="Estimate"
      hint="choose any underlined number to see it computed, term by term · ← → next event"
      context={(result) => result.cohort.line}
      view={(result) => ({
        main: <Curves study={study} result={result} />,
        readings: <EstimateReadings study={study} result={result} />,
      })}
    />
  );
}

function Curves({ study, result }: { study: string; result: EstimateResult }) {
  return (
    <TrackFigure
      study={study}
      view="estimate"
      figure={result.figure}
      unit={result.cohort.unit}
      digits={result.cohort.time_digits}
      start={result.curve.points[0]?.time ?? null}
      say={(t) => sayAt([result.curve], t)}
    />
  );
}

function EstimateReadings({ study, result }: { study: string; result: EstimateResult }) {
  const { curve, cohort } = result;
  const end = result.figure.end;
  const t = useSandTime(study, end, curve.points[0]?.time ?? null);
  const digits = cohort.time_digits;
  return (
    <Readings>
      <AtTime study={study} curves={[curve]} cohort={cohort} t={t} end={end} />
      <Section title={`Time to ${cohort.event_name}, ${cohort.unit}`}>
        <Numbers
          label="Quartiles"
          head={["by then", "time", "interval"]}
          rows={[
            [
              "a quarter",
              time(curve.quartiles[0]?.time, digits),
              quantileInterval(curve, 0.25, digits),
            ],
            [
              { text: "half: median", strong: true },
              <Median key="m" curve={curve} digits={digits} />,
              quantileInterval(curve, 0.5, digits),
            ],
            [
              "three quarters",
              time(curve.quartiles[2]?.time, digits),
              quantileInterval(curve, 0.75, digits),
            ],
          ]}
        />
      </Section>
      <Section title="At chosen times">
        <Numbers
          label="At chosen times"
          head={[cohort.unit, "free", "interval", "at risk"]}
          rows={curve.points.map((p) => [
            String(p.time),
            p.survival === null ? (
              "not so long"
            ) : (
              <WorkedNumber key="s" of={{ figure: "survival", t: p.time, group: null }}>
                {percent(p.survival)}
              </WorkedNumber>
            ),
            p.lower === null ? "none" : interval(p.lower, p.upper, (v) => shareOf100(v ?? 0)),
            whole(p.at_risk),
          ])}
        />
      </Section>
      <Section title="Follow-up">
        <Numbers
          label="Follow-up"
          rows={[
            [cohort.rows_are, whole(cohort.subjects)],
            ...(cohort.rows === cohort.subjects ? [] : [["rows", whole(cohort.rows)]]),
            ["events", whole(cohort.events)],
            ["censored", whole(cohort.censored)],
            ...(cohort.competing ? [["competing events", whole(cohort.competing)]] : []),
            [`median follow-up, ${cohort.unit}`, time(cohort.follow_up.time, digits)],
            [`time followed in all, ${cohort.unit}`, whole(Math.round(cohort.person_time))],
            ...(cohort.near_ties ? [["times merged as near-ties", whole(cohort.near_ties)]] : []),
          ]}
        />
        <StageCautions study={study} stage="estimate" cautions={result.cautions} />
      </Section>
    </Readings>
  );
}

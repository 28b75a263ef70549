import type { CompareResult, CurveReading, Difference } from "../../api/types";
import { LaterStage } from "../../frame/LaterStage";
import { StageCautions } from "../../frame/StageCautions";
import { lastAtOrBefore } from "../../numbers/atTime";
import { NOT_REACHED, points, pValue, rounded, statistic, whole } from "../../numbers/format";
import { AtTime, Median, quantileInterval, sayAt } from "../../readings/CurveReadings";
import { Numbers, Readings, Section } from "../../readings/Readings";
import { useSandTime } from "../../sand/sandTime";
import { TrackFigure } from "../../tracks/TrackFigure";
import { WorkedNumber } from "../../workings/workings";

const SHOWN_FIRST = ["survival", "at_risk", "evidence", "difference"];

/** Do groups differ, by how much, and when. */
export function Compare({ study }: { study: string }) {
  return (
    <LaterStage
      study={study}
      stage="compare"
      title="Compare"
      hint="choose any underlined number to see it computed, term by term · ← → next event"
      context={(result) => result.cohort.line}
      view={(result) => ({
        main: <Curves study={study} result={result} />,
        readings: <CompareReadings study={study} result={result} />,
      })}
    />
  );
}

function startOf(result: CompareResult): number | null {
  return result.curves[0]?.points[0]?.time ?? null;
}

function Curves({ study, result }: { study: string; result: CompareResult }) {
  if (!result.figure) {
    return (
      <p className="notice">
        Choose a category in the sentence above. It needs at least two levels among the rows
        analysed.
      </p>
    );
  }
  return (
    <TrackFigure
      study={study}
      view="compare"
      figure={result.figure}
      first={SHOWN_FIRST}
      unit={result.cohort.unit}
      digits={result.cohort.time_digits}
      start={startOf(result)}
      say={(t) => sayAt(result.curves, t)}
    />
  );
}

function differenceAt(difference: Difference | null | undefined, t: number): string[][] {
  if (!difference) return [];
  const k = t > difference.end ? -1 : lastAtOrBefore(difference.time, t);
  const low = difference.lower[k];
  const high = difference.upper[k];
  const none = low === null || low === undefined || high === null || high === undefined;
  return [
    [
      "difference",
      points(difference.difference[k]),
      none ? "none" : `${points(low)} to ${points(high)}`,
      "",
    ],
  ];
}

function medianInterval(curve: CurveReading, digits: number): string {
  const limits = quantileInterval(curve, 0.5, digits);
  return limits === NOT_REACHED ? "neither limit reached" : limits;
}

function CompareReadings({ study, result }: { study: string; result: CompareResult }) {
  const { cohort, curves, test } = result;
  const end = result.figure?.end ?? 0;
  const t = useSandTime(study, end, startOf(result));
  const digits = cohort.time_digits;
  if (!result.asked) return <Readings>{null}</Readings>;
  return (
    <Readings>
      <AtTime
        study={study}
        curves={curves}
        cohort={cohort}
        t={t}
        end={end}
        extra={differenceAt(result.difference, t)}
      />
      <Section title="Whole follow-up">
        <Numbers
          label="Whole follow-up"
          head={["", cohort.rows_are, "events", `median, ${cohort.unit}`]}
          rows={curves.map((c) => [
            { text: c.label, tone: c.tone },
            whole(c.subjects),
            whole(c.events),
            <span key="m">
              <Median curve={c} digits={digits} />
              <br />
              <span className="quiet">{medianInterval(c, digits)}</span>
            </span>,
          ])}
        />
        {curves.some((c) => c.moved_on) ? (
          <p className="quiet">
            Moved on to another group:{" "}
            {curves
              .filter((c) => c.moved_on)
              .map((c) => `${whole(c.moved_on)} from ${c.label}`)
              .join(", ")}
            .
          </p>
        ) : null}
      </Section>
      <Section title="Log-rank test">
        <Numbers
          label="Observed and expected events"
          head={["events", "observed", "expected"]}
          rows={result.groups.map((g) => [
            { text: g.label, tone: g.tone },
            whole(g.observed),
            rounded(g.expected, 1),
          ])}
        />
        {test.p === null ? (
          <p>There is no log-rank test: {test.blank}.</p>
        ) : (
          <Numbers
            label="Log-rank test"
            rows={[
              [
                { text: "Log-rank", strong: true },
                <WorkedNumber key="w" of={{ figure: "log-rank" }}>
                  χ² {statistic(test.statistic)}
                </WorkedNumber>,
                `${test.df} df`,
                { text: `p ${pValue(test.p)}`, strong: true },
              ],
            ]}
          />
        )}
        <p className="quiet">
          Expected: how many events a group would have had if all groups shared one rate at each
          time. The p-value says how often chance alone would part the curves as far; it is not the
          chance that they are alike.
        </p>
        {result.left_out ? (
          <p>{whole(result.left_out)} rows without a group are left out.</p>
        ) : null}
        <StageCautions study={study} stage="compare" cautions={result.cautions} />
      </Section>
    </Readings>
  );
}

import type { ModelResult } from "../../api/types";
import { LaterStage } from "../../frame/LaterStage";
import { StageCautions } from "../../frame/StageCautions";
import { pValue, rounded, statistic, whole } from "../../numbers/format";
import { Numbers, Readings, Section } from "../../readings/Readings";
import { Forest } from "./Forest";

/** The rate of the event by several terms together. */
export function Model({ study }: { study: string }) {
  return (
    <LaterStage
      study={study}
      stage="model"
      title="Model"
      hint="choose an underlined hazard ratio to see the sums it solves, event time by event time"
      context={(result) => result.cohort.line}
      view={(result) => ({
        main: <Ratios result={result} />,
        readings: <ModelReadings study={study} result={result} />,
      })}
    />
  );
}

function Ratios({ result }: { result: ModelResult }) {
  if (result.blank) return <p className="notice">{result.blank}</p>;
  return (
    <>
      <Forest result={result} />
      <section className="in-words" aria-labelledby="in-words-title">
        <h2 id="in-words-title">In words</h2>
        <ul>
          {result.words.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </ul>
        <p className="quiet">
          A hazard ratio compares rates at a moment among those still free of the event. It is not a
          probability, nor a share of {result.cohort.rows_are}.
        </p>
      </section>
    </>
  );
}

function ModelReadings({ study, result }: { study: string; result: ModelResult }) {
  if (result.blank) return <Readings>{null}</Readings>;
  const tested = (t: ModelResult["tests"][number]) =>
    t.statistic === null
      ? [t.name, { text: t.blank, wordy: true }]
      : [t.name, `χ² ${statistic(t.statistic)}`, `${t.df} df`, pValue(t.p)];
  return (
    <Readings>
      <Section title="Tests of the whole model">
        <Numbers
          label="Tests of the whole model"
          head={["", "", "", "p"]}
          rows={result.tests.map(tested)}
        />
      </Section>
      <Section title="Tests of each term">
        <Numbers
          label="Tests of each term"
          head={["", "", "", "p"]}
          rows={result.terms.map((t) => tested(t.leaving_out))}
        />
      </Section>
      <Section title="Fit">
        <Numbers
          label="Fit"
          rows={[
            [
              "Concordance",
              result.concordance === null
                ? "—"
                : `${rounded(result.concordance, 3)} ± ${rounded(result.concordance_error ?? 0, 3)}`,
            ],
            ["Rows, events", `${whole(result.rows)}, ${whole(result.events)}`],
            [
              "Events per coefficient",
              result.events_per_coefficient ? rounded(result.events_per_coefficient, 1) : "—",
            ],
            ["−2ℓ", statistic(result.minus_two_log_likelihood)],
            ["AIC, BIC", `${statistic(result.aic)}, ${statistic(result.bic)}`],
            ["Converged in", `${result.iterations} iterations`],
          ]}
        />
        {result.rows_left_out ? (
          <>
            <p>{whole(result.rows_left_out)} rows are left out of the model:</p>
            <Numbers
              label="Rows left out"
              rows={result.left_out.map((o) => [`${o.column} missing`, whole(o.rows)])}
            />
          </>
        ) : (
          <p className="quiet">No row is left out.</p>
        )}
        <StageCautions study={study} stage="model" cautions={result.cautions} />
      </Section>
    </Readings>
  );
}

import type { StepPreview, Work } from "../../../api/types";
import { Working } from "../../../frame/StagePage";
import { grouped } from "../../../numbers/format";
import "./StepEffect.css";

/** What a step would do: rows, cells, levels with their events, a few cells before and after. */
export function StepEffect({
  effect,
  work,
  error,
}: {
  effect: StepPreview | undefined;
  work: Work | null;
  error: Error | null;
}) {
  if (error)
    return (
      <p className="refusal" role="alert">
        {error.message}
      </p>
    );
  if (work) return <Working work={work} />;
  if (!effect) return <p className="quiet">Fill the sentence to see what the step would do.</p>;
  if (effect.broken)
    return (
      <p className="refusal" role="status">
        {effect.broken}
      </p>
    );
  return (
    <div className="step-effect" role="status">
      <p>
        <b>{effect.name}</b>: {inWords(effect)}
        {effect.note ? `. ${effect.note}` : ""}.
      </p>
      {effect.bands.length ? (
        <Bands effect={effect} />
      ) : effect.after.length ? (
        <p className="quiet">
          {effect.column}:{" "}
          {effect.after
            .map((now, k) => {
              const was = effect.before[k];
              return was && was !== now ? `${was} → ${now || "missing"}` : now || "missing";
            })
            .join(" · ")}
        </p>
      ) : null}
    </div>
  );
}

/** The levels that the step makes, with their rows and events. */
function Bands({ effect }: { effect: StepPreview }) {
  return (
    <table className="numbers" aria-label={`Levels of ${effect.column}`}>
      <thead>
        <tr>
          <th scope="col">{effect.column}</th>
          <th scope="col">rows</th>
          <th scope="col">events</th>
        </tr>
      </thead>
      <tbody>
        {effect.bands.map((band) => (
          <tr key={band.label}>
            <th scope="row">{band.label}</th>
            <td>{grouped(band.rows)}</td>
            <td>{band.events === null ? "—" : grouped(band.events)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** "12 rows set aside", "40 cells changed", "3 levels". */
export function inWords(effect: {
  rows_set_aside: number;
  cells_changed: number;
  made: string;
}): string {
  const text = [
    effect.rows_set_aside ? `${grouped(effect.rows_set_aside)} rows set aside` : "",
    effect.cells_changed ? `${grouped(effect.cells_changed)} cells changed` : "",
    effect.made ? `makes ${effect.made}` : "",
  ].filter(Boolean);
  return text.length ? text.join(", ") : "nothing is changed";
}

import { Fragment } from "react";
import { Link } from "react-router";
import type { ReportSentence, ReportSource } from "../../api/types";

/** The stages that somebody points at, and what to do when others are pointed at. */
interface Pointing {
  pointed: readonly string[];
  onPoint: (stages: readonly string[]) => void;
}

/** From which results the numbers of a piece come; seen while it is pointed at, and read out always. */
export function Sources({
  study,
  sources,
  pointed,
  onPoint,
}: { study: string; sources: readonly ReportSource[] } & Pointing) {
  if (!sources.length) return null;
  return (
    <p className="piece-sources quiet">
      Numbers from{" "}
      {sources.map(({ stage, title }, k) => (
        <Fragment key={stage}>
          {k ? ", " : ""}
          <Link
            to={`/studies/${study}/${stage}`}
            className={pointed.includes(stage) ? "pointed" : undefined}
            onPointerEnter={() => onPoint([stage])}
            onPointerLeave={() => onPoint([])}
            onFocus={() => onPoint([stage])}
            onBlur={() => onPoint([])}
          >
            {title}
          </Link>
        </Fragment>
      ))}
    </p>
  );
}

/**
 * The sentences of a paragraph: pointing at one marks the results that it comes from, and pointing at results
 * marks the sentences made from them. Where a piece has several sources, those of a sentence are read out after it.
 */
export function CitedSentences({
  sentences,
  every,
  pointed,
  onPoint,
}: {
  sentences: readonly ReportSentence[];
  /** How many sources the piece has. */
  every: number;
} & Pointing) {
  return sentences.map(({ text, sources }, k) => {
    const stages = sources.map((source) => source.stage);
    const marked = every > 1 && stages.some((stage) => pointed.includes(stage));
    return (
      <Fragment key={k}>
        {k ? " " : ""}
        <span
          className={marked ? "cited pointed" : "cited"}
          onPointerEnter={() => onPoint(stages)}
          onPointerLeave={() => onPoint([])}
        >
          {text}
          {every > 1 && sources.length ? (
            <span className="sr"> (from {sources.map((source) => source.title).join(", ")})</span>
          ) : null}
        </span>
      </Fragment>
    );
  });
}

import type { MarkOf } from "../../api/types";
import { toneColour } from "../../theme/tones";
import { GHOST, HATCHED, type Place } from "./drawing";

export function RuleMark({ mark, place }: { mark: MarkOf<"rule">; place: Place }) {
  const at = mark.upright ? place.x(mark.at) : place.y(mark.at);
  const ends = mark.upright
    ? { x1: at, x2: at, y1: place.top, y2: place.bottom }
    : { x1: place.left, x2: place.right, y1: at, y2: at };
  return <line {...ends} className={mark.dashed ? "rule dashed" : "rule"} />;
}

export function RegionMark({ mark, place }: { mark: MarkOf<"region">; place: Place }) {
  const [from, to] = [place.x(mark.low), place.x(mark.high)];
  return (
    <rect
      x={from}
      y={place.top}
      width={Math.max(to - from, 0)}
      height={place.bottom - place.top}
      fill={HATCHED}
    />
  );
}

export function HistogramMark({ mark, place }: { mark: MarkOf<"histogram">; place: Place }) {
  const base = place.y(Math.max(place.up.low, 0));
  let d = "";
  for (const [k, height] of mark.heights.entries()) {
    const [from, to] = [mark.edges[k], mark.edges[k + 1]];
    if (height === null || from === null || from === undefined || to === null || to === undefined)
      continue;
    d += `M${place.x(from)} ${base}V${place.y(height)}H${place.x(to)}V${base}Z`;
  }
  return (
    <path
      d={d}
      fill={toneColour(mark.tone)}
      opacity={mark.ghost ? GHOST : undefined}
      className="histogram"
    />
  );
}

export function InsetMark({ mark, place }: { mark: MarkOf<"inset">; place: Place }) {
  return (
    <text
      x={place.x(mark.x)}
      y={place.y(mark.y)}
      textAnchor={mark.anchor}
      fill={toneColour(mark.tone)}
    >
      {mark.label}
    </text>
  );
}

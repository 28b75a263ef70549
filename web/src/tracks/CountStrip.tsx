import { memo } from "react";
import type { Tick, Track } from "../api/types";
import { grouped } from "../numbers/format";
import { toneColour } from "../theme/tones";
import { atRisk } from "./atRisk";
import { COUNT_ROW, LABEL_GAP, LABEL_LETTERS } from "./layout";
import { shortened, widthOf } from "./measure";

/** Whether a number in the middle under its tick would reach into the labels at the right. */
function reaches(at: number, number: number, right: number): boolean {
  return at + widthOf(grouped(number)) / 2 > right + LABEL_GAP - 4;
}

/** The numbers at risk at the ticks; at any other time the readings show them. */
export const CountStrip = memo(function CountStrip({
  track,
  ticks,
  x,
  right,
}: {
  track: Track;
  ticks: readonly Tick[];
  x: (t: number) => number;
  right: number;
}) {
  const rows = track.counts;
  return rows.map((row, r) => (
    <g key={row.label} fill={toneColour(row.tone)} className="counts">
      {ticks.map((tick) => {
        const number = atRisk(row, tick.at);
        return number === null ? null : (
          <text
            key={tick.at}
            x={x(tick.at)}
            y={18 + r * COUNT_ROW}
            textAnchor={reaches(x(tick.at), number, right) ? "end" : "middle"}
          >
            {grouped(number)}
          </text>
        );
      })}
      {rows.length > 1 ? (
        <text x={right + LABEL_GAP} y={18 + r * COUNT_ROW} className="end-label">
          <title>{row.label}</title>
          {shortened(row.label, LABEL_LETTERS)}
        </text>
      ) : null}
    </g>
  ));
});

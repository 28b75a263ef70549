import { memo } from "react";
import type { Track } from "../api/types";
import { atRiskAt } from "../numbers/atTime";
import { grouped } from "../numbers/format";
import { COUNT_ROW, RIGHT } from "./layout";
import { toneColour } from "./palette";

/** The numbers still followed at the round times; at any other time the readings say them. */
export const CountStrip = memo(function CountStrip({
  track,
  ticks,
  x,
  width,
}: {
  track: Track;
  ticks: readonly number[];
  x: (t: number) => number;
  width: number;
}) {
  const rows = track.counts;
  return (
    <g>
      {rows.map((row, r) => (
        <g key={row.label} fill={toneColour(row.tone)} className="counts">
          {ticks.map((t) => (
            <text key={t} x={x(t)} y={18 + r * COUNT_ROW} textAnchor="middle">
              {grouped(atRiskAt(row.time, row.number, t))}
            </text>
          ))}
          {rows.length > 1 ? (
            <text x={width - RIGHT + 8} y={18 + r * COUNT_ROW} className="end-label">
              <title>{row.label}</title>
              {row.label.length > 14 ? `${row.label.slice(0, 13)}…` : row.label}
            </text>
          ) : null}
        </g>
      ))}
    </g>
  );
});

import { memo, useId } from "react";
import type { Axis, Track } from "../api/types";
import { toneColour } from "../theme/tones";
import { fittingTicks } from "./fittingTicks";
import { LEFT, PAD } from "./layout";
import { Marks } from "./marks/Marks";
import { shortened } from "./measure";
import { scaleOf } from "./scales";

const GAP = 16;
const HEAD = 18;
const FOOT = 20;
/** So near to an edge, in pixels, a label would stand out over it. */
const EDGE = 12;

/** How a label of a tick is anchored, so that it does not touch one of the next panel. */
function inside(at: number, from: number, to: number): "start" | "middle" | "end" {
  if (at - from < EDGE) return "start";
  return to - at < EDGE ? "end" : "middle";
}

/** A track of several strips side by side, on common axes, each with its own ticks below. */
export const PanelStrip = memo(function PanelStrip({
  track,
  across,
  right,
  height,
}: {
  track: Track;
  across: Axis;
  right: number;
  height: number;
}) {
  const clip = useId();
  const up = track.axis;
  if (!up) return null;
  const places = Math.max(track.abreast, track.panels.length);
  const each = (right - LEFT - GAP * (places - 1)) / places;
  const [top, bottom] = [PAD + HEAD, height - FOOT];
  const y = scaleOf(up, bottom, top);
  const levels = fittingTicks(up, bottom - top, true);
  return track.panels.map((panel, k) => {
    const from = LEFT + k * (each + GAP);
    const to = from + each;
    const x = scaleOf(across, from, to);
    const place = { x, y, across, up, left: from, right: to, top, bottom };
    return (
      <g key={panel.title}>
        <text x={from} y={PAD + 6} fill={toneColour(panel.tone)} className="end-label">
          {shortened(panel.title, Math.max(Math.floor(each / 7), 4))}
        </text>
        {levels.map((tick) => (
          <g key={tick.at}>
            <line x1={from} x2={to} y1={y(tick.at)} y2={y(tick.at)} className="grid" />
            {k === 0 ? (
              <text x={LEFT - 8} y={y(tick.at) + 4} textAnchor="end" className="tick">
                {tick.label}
              </text>
            ) : null}
          </g>
        ))}
        {fittingTicks(across, each, false).map((tick) => (
          <text
            key={tick.at}
            x={x(tick.at)}
            y={height - 5}
            textAnchor={inside(x(tick.at), from, to)}
            className="tick panel-tick"
          >
            {tick.label}
          </text>
        ))}
        <clipPath id={`${clip}${k}`}>
          <rect x={from} y={0} width={Math.max(each, 0)} height={height} />
        </clipPath>
        <g clipPath={`url(#${clip}${k})`}>
          <Marks marks={panel.marks} place={place} />
        </g>
      </g>
    );
  });
});

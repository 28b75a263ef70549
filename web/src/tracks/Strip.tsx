import { memo, useId } from "react";
import type { Axis, Track } from "../api/types";
import { toneColour } from "../theme/tones";
import { EndLabels } from "./EndLabels";
import { fittingTicks } from "./fittingTicks";
import { LEFT, OWN_AXIS, PAD } from "./layout";
import { Marks } from "./marks/Marks";
import type { Scale } from "./scales";
import { scaleOf } from "./scales";

/** A glyph at the very edge is drawn whole. */
const OVER = 6;

interface Props {
  track: Track;
  across: Axis;
  x: Scale;
  right: number;
  height: number;
  /** Whether a part of the axis is shown: then nothing is drawn past the strip's edges. */
  zoomed: boolean;
}

/** The drawing of one track with a vertical axis, perhaps with a horizontal one of its own: its grid, its marks, and names at line ends. */
export const Strip = memo(function Strip({ track, across, x, right, height, zoomed }: Props) {
  const up = track.axis;
  const clip = useId();
  if (!up) return null;
  const over = zoomed && !track.across ? 0 : OVER;
  const own = track.across;
  const [top, bottom] = [PAD, height - (own ? OWN_AXIS : PAD)];
  const y = scaleOf(up, bottom, top);
  const along = own ?? across;
  const place = { x, y, across: along, up, left: LEFT, right, top, bottom };
  const text = track.marks.flatMap((mark) => (mark.kind === "area" && mark.caption ? [mark] : []));
  return (
    <g>
      {fittingTicks(up, bottom - top, true).map((tick) => (
        <g key={tick.at}>
          <line x1={LEFT} x2={right} y1={y(tick.at)} y2={y(tick.at)} className="grid" />
          <text x={LEFT - 8} y={y(tick.at) + 4} textAnchor="end" className="tick">
            {tick.label}
          </text>
        </g>
      ))}
      {own ? <OwnAxis axis={own} x={x} right={right} bottom={bottom} /> : null}
      {/* Of a part of the axis, what lies beyond it is not drawn. */}
      <clipPath id={clip}>
        <rect x={LEFT - over} y={0} width={right - LEFT + 2 * over} height={height} />
      </clipPath>
      <g clipPath={`url(#${clip})`}>
        <Marks marks={track.marks} place={place} />
      </g>
      {text.map((area, k) => (
        <text
          key={area.caption}
          x={right - 6}
          y={top + 13 + 15 * k}
          textAnchor="end"
          className="area-caption"
          // What is filled in full is distinguished by its tone.
          style={area.fill === "full" ? { fill: toneColour(area.tone) } : undefined}
        >
          Shaded: {area.caption}
        </text>
      ))}
      <EndLabels track={track} place={place} />
    </g>
  );
});

interface OwnAxisProps {
  axis: Axis;
  x: Scale;
  right: number;
  bottom: number;
}

/** The horizontal axis of a track that does not share the figure's. */
function OwnAxis({ axis, x, right, bottom }: OwnAxisProps) {
  return (
    <g>
      <line x1={LEFT} x2={right} y1={bottom} y2={bottom} className="axis" />
      {fittingTicks(axis, right - LEFT, false).map((tick) => (
        <text
          key={tick.at}
          x={x(tick.at)}
          y={bottom + 17}
          textAnchor="middle"
          className="tick panel-tick"
        >
          {tick.label}
        </text>
      ))}
      <text x={(LEFT + right) / 2} y={bottom + 34} textAnchor="middle" className="tick">
        {axis.label}
      </text>
    </g>
  );
}

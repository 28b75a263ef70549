import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { firstAtOrAfter, lastAtOrBefore } from "../numbers/atTime";
import { timeText } from "../numbers/format";
import { setSandTime, useSandTime } from "../sand/sandTime";
import "./SandLine.css";

interface Props {
  study: string;
  end: number;
  start: number | null;
  events: readonly number[];
  ticks: readonly number[];
  unit: string;
  decimals: number;
  x: (t: number) => number;
  at: (pixels: number) => number;
  height: number;
  left: number;
  right: number;
  say: (t: number) => string;
}

/** One time cursor across all tracks: dragged, or moved from event to event with the arrows. */
export function SandLine(props: Props) {
  const { study, end, start, events, ticks, unit, decimals, x, at, height, left, right, say } =
    props;
  const t = useSandTime(study, end, start);
  const dragging = useRef(false);
  const follow = (event: PointerEvent<SVGRectElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box) return;
    const pixel = end / Math.max(right - left, 1) || 1;
    const t = toPixel(at(event.clientX - box.left), pixel);
    setSandTime(study, Math.min(Math.max(t, 0), end));
  };
  const key = (event: KeyboardEvent) => {
    const next = keyTime(event, t, end, events, ticks);
    if (next === null) return;
    event.preventDefault();
    setSandTime(study, next);
  };
  const label = `${timeText(t, decimals)} ${unit}`;
  const half = Math.max(40, label.length * 3.8);
  const flag = Math.min(Math.max(x(t), left + half - 20), right + half - 20);
  return (
    <g className="sand">
      <rect
        x={left}
        y={0}
        width={Math.max(right - left, 0)}
        height={height}
        className="sand-field"
        onPointerDown={(event) => {
          dragging.current = true;
          event.currentTarget.setPointerCapture(event.pointerId);
          follow(event);
        }}
        onPointerMove={(event) => dragging.current && follow(event)}
        onPointerUp={() => {
          dragging.current = false;
        }}
      />
      <g
        role="slider"
        tabIndex={0}
        aria-label="Sand line: time read"
        aria-valuemin={0}
        aria-valuemax={end}
        aria-valuenow={t}
        aria-valuetext={`${label}. ${say(t)}`}
        onKeyDown={key}
        className="sand-line"
      >
        <line x1={x(t)} x2={x(t)} y1={16} y2={height} />
        <rect x={flag - half} y={0} width={2 * half} height={18} rx={2} />
        <path d={`M${x(t) - 5} 18h10l-5 5z`} />
        <text x={flag} y={13} textAnchor="middle">
          {label}
        </text>
      </g>
    </g>
  );
}

/** A time rounded to what a pixel can tell, so that a dragged line has no decimals of chance. */
function toPixel(t: number, pixel: number): number {
  const step = 10 ** Math.floor(Math.log10(pixel));
  return Number((Math.round(t / step) * step).toPrecision(12));
}

/** Where a key leads: arrows from event to event, with shift between round times. */
function keyTime(
  event: KeyboardEvent,
  t: number,
  end: number,
  events: readonly number[],
  ticks: readonly number[],
): number | null {
  const stops = event.shiftKey ? ticks : events;
  if (event.key === "Home") return 0;
  if (event.key === "End") return end;
  if (event.key === "ArrowRight") return stops[lastAtOrBefore(stops, t) + 1] ?? end;
  if (event.key === "ArrowLeft") return stops[firstAtOrAfter(stops, t) - 1] ?? 0;
  return null;
}

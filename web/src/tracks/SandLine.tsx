import { type KeyboardEvent, type PointerEvent, useId, useRef } from "react";
import type { Tick, TimeLine } from "../api/types";
import { nextTime, pageAt } from "../numbers/atTime";
import { timeText } from "../numbers/format";
import { seriesPages } from "../numbers/seriesPages";
import { setHoveredTime, setSandTime, useHoveredTime, useSandTime } from "../sandLine/sandTime";
import type { Extent } from "./extent";
import { LEFT } from "./layout";
import { widthOf } from "./measure";
import type { Scale } from "./scales";
import "./SandLine.css";

interface Props {
  study: string;
  drawing: string;
  time: TimeLine;
  end: number;
  extent: Extent;
  ticks: readonly Tick[];
  x: Scale;
  right: number;
  height: number;
  /** Where the line is drawn: the tracks over the common axis. */
  clear: readonly { top: number; height: number }[];
  textAt: (t: number) => string;
}

/**
 * One time cursor across all tracks: dragged, or moved from event to event with the arrows. A pointer
 * that hovers reads the time under it without moving the line.
 */
export function SandLine(props: Props) {
  const { study, drawing, time, end, extent, ticks, x, right, height, clear, textAt } = props;
  const t = useSandTime(study, end, time.start);
  const hovered = useHoveredTime(study);
  const dragging = useRef(false);
  const under = (event: PointerEvent<SVGRectElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box) return null;
    const pixel = (extent[1] - extent[0]) / Math.max(right - LEFT, 1) || 1;
    const at = toPixel(x.invert(event.clientX - box.left), pixel);
    return Math.min(Math.max(at, extent[0]), extent[1]);
  };
  const follow = (event: PointerEvent<SVGRectElement>) => {
    const at = under(event);
    if (at === null) return;
    if (dragging.current) setSandTime(study, at);
    else if (event.pointerType === "mouse") setHoveredTime(study, at);
  };
  const key = (event: KeyboardEvent) => {
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    if (event.key === "Home" || event.key === "End") {
      event.preventDefault();
      setSandTime(study, event.key === "Home" ? 0 : end);
    }
    if (event.key !== "ArrowRight" && event.key !== "ArrowLeft") return;
    event.preventDefault();
    const by = event.key === "ArrowRight" ? 1 : -1;
    if (event.shiftKey) setSandTime(study, nextTick(ticks, t, by) ?? (by > 0 ? end : 0));
    else void toNextEvent(study, drawing, time, t, by, end);
  };
  const inSight = t >= extent[0] && t <= extent[1];
  const clip = useId();
  return (
    <g className="sand">
      <clipPath id={clip}>
        {clear.map(({ top, height: tall }) => (
          <rect key={top} x={0} y={top} width={right + LEFT} height={tall} />
        ))}
      </clipPath>
      <rect
        x={LEFT}
        y={0}
        width={Math.max(right - LEFT, 0)}
        height={height}
        className="sand-field"
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          dragging.current = true;
          setHoveredTime(study, null);
          event.currentTarget.setPointerCapture(event.pointerId);
          follow(event);
        }}
        onPointerMove={follow}
        onPointerLeave={() => setHoveredTime(study, null)}
        onPointerUp={() => {
          dragging.current = false;
        }}
      />
      {hovered === null || hovered > end ? null : (
        <line
          x1={x(hovered)}
          x2={x(hovered)}
          y1={16}
          y2={height}
          className="hover-line"
          clipPath={`url(#${clip})`}
        />
      )}
      <g
        role="slider"
        tabIndex={0}
        aria-label="Sand line: time read"
        aria-valuemin={0}
        aria-valuemax={end}
        aria-valuenow={t}
        aria-valuetext={`${timeText(t, time.decimals)} ${time.unit}. ${textAt(t)}`}
        onKeyDown={key}
        className="sand-line"
      >
        {inSight ? (
          <g clipPath={`url(#${clip})`}>
            <Flag t={t} time={time} x={x} right={right} height={height} />
          </g>
        ) : null}
      </g>
    </g>
  );
}

function Flag({
  t,
  time,
  x,
  right,
  height,
}: {
  t: number;
  time: TimeLine;
  x: Scale;
  right: number;
  height: number;
}) {
  const label = `${timeText(t, time.decimals)} ${time.unit}`;
  const half = widthOf(label, true) / 2 + 8;
  const at = Math.min(Math.max(x(t), LEFT + half - 20), right + 20 - half);
  return (
    <>
      <line x1={x(t)} x2={x(t)} y1={16} y2={height} />
      <rect x={at - half} y={0} width={2 * half} height={18} rx={2} />
      <path d={`M${x(t) - 5} 18h10l-5 5z`} />
      <text x={at} y={13} textAnchor="middle">
        {label}
      </text>
    </>
  );
}

/** A time rounded to what a pixel can show, so that a dragged line has no decimals of chance. */
function toPixel(t: number, pixel: number): number {
  const step = 10 ** Math.floor(Math.log10(pixel));
  return Number((Math.round(t / step) * step).toPrecision(12));
}

function nextTick(ticks: readonly Tick[], t: number, by: 1 | -1): number | undefined {
  const beyond = ticks.map((tick) => tick.at).filter((at) => (by > 0 ? at > t : at < t));
  return by > 0 ? beyond[0] : beyond.at(-1);
}

/** To the next event, once the page of event times that holds it is there. */
async function toNextEvent(
  study: string,
  drawing: string,
  time: TimeLine,
  t: number,
  by: 1 | -1,
  end: number,
): Promise<void> {
  const pages = seriesPages(study, drawing);
  let next = nextTime(time.events, t, by, pages.pageOf);
  if (next === undefined) {
    const page = pageAt(time.events, t);
    await Promise.all([page - 1, page, page + 1].map((p) => pages.load(time.events, p)));
    next = nextTime(time.events, t, by, pages.pageOf);
  }
  setSandTime(study, next ?? (by > 0 ? end : 0));
}

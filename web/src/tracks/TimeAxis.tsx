import { type PointerEvent, useRef } from "react";
import type { Axis, Tick } from "../api/types";
import { AXIS_HEIGHT, LEFT } from "./layout";
import type { Scale } from "./scales";
import type { Shown } from "./useWindow";

/** The horizontal axis; where a part of it is shown, it can be dragged along. */
export function TimeAxis({
  axis,
  ticks,
  x,
  right,
  top,
  shown,
}: {
  axis: Axis;
  ticks: readonly Tick[];
  x: Scale;
  right: number;
  top: number;
  shown: Shown;
}) {
  const from = useRef<number | null>(null);
  const drag = (event: PointerEvent<SVGRectElement>) => {
    if (from.current === null) return;
    shown.move((from.current - event.clientX) / Math.max(right - LEFT, 1));
    from.current = event.clientX;
  };
  return (
    <g transform={`translate(0 ${top})`} className="time-axis">
      <line x1={LEFT} x2={right} y1={0} y2={0} />
      {ticks.map((tick) => (
        <g key={tick.at} transform={`translate(${x(tick.at)} 0)`}>
          <line y1={0} y2={5} />
          <text y={18} textAnchor="middle">
            {tick.label}
          </text>
        </g>
      ))}
      <text x={(LEFT + right) / 2} y={38} textAnchor="middle" className="axis-name">
        {axis.label}
      </text>
      <rect
        x={LEFT}
        y={0}
        width={Math.max(right - LEFT, 0)}
        height={AXIS_HEIGHT}
        className={shown.zoomed ? "axis-field zoomed" : "axis-field"}
        onPointerDown={(event) => {
          from.current = event.clientX;
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerMove={drag}
        onPointerUp={() => {
          from.current = null;
        }}
      />
    </g>
  );
}

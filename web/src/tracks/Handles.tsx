import { type PointerEvent, useState } from "react";
import type { Track } from "../api/types";
import { nudged } from "../numbers/nudged";
import { LEFT } from "./layout";
import type { Scale } from "./scales";

type Handle = Track["handles"][number];

/** Lines that are dragged, or moved with the arrows; where they are let go goes into the statement. */
export function Handles({
  track,
  x,
  right,
  height,
  onSet,
  onTry,
}: {
  track: Track;
  x: Scale;
  right: number;
  height: number;
  onSet: (field: string, value: unknown) => void;
  onTry: (field: string, value: unknown) => void;
}) {
  return track.handles.map((handle) => (
    <One
      key={`${handle.field}${handle.at}`}
      handle={handle}
      x={x}
      limits={[x.invert(LEFT), x.invert(right)]}
      height={height}
      onSet={(at) => onSet(handle.field, at)}
      onTry={handle.tried ? (at) => onTry(handle.field, at) : undefined}
    />
  ));
}

/** A value within limits, as finely as the handle's are written. */
function heldWithin(value: number, limits: [number, number], decimals: number | null): number {
  const inside = Math.min(Math.max(value, limits[0]), limits[1]);
  return Number(decimals === null ? inside.toPrecision(6) : inside.toFixed(decimals));
}

/** The value of the axis under the pointer. */
function timeUnder(event: PointerEvent<SVGGElement>, x: Scale): number {
  const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
  return x.invert(event.clientX - (box?.left ?? 0));
}

/** With one arrow a handle moves by this share of the axis. */
const STEP = 0.01;
/** So near to the line, in pixels, it can be taken hold of. */
const REACH = 7;

function One({
  handle,
  x,
  limits,
  height,
  onSet,
  onTry,
}: {
  handle: Handle;
  x: Scale;
  limits: [number, number];
  height: number;
  onSet: (at: number) => void;
  onTry: ((at: number) => void) | undefined;
}) {
  const [held, setHeld] = useState<number | null>(null);
  const at = held ?? handle.at;
  const within = (value: number) => heldWithin(value, limits, handle.decimals);
  const under = (event: PointerEvent<SVGGElement>) => within(timeUnder(event, x));
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={handle.label}
      aria-valuemin={limits[0]}
      aria-valuemax={limits[1]}
      aria-valuenow={at}
      className="handle"
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        setHeld(under(event));
      }}
      onPointerMove={(event) => {
        if (held === null) return;
        const now = under(event);
        if (now !== held) onTry?.(now);
        setHeld(now);
      }}
      onPointerUp={() => {
        if (held !== null) onSet(held);
        setHeld(null);
      }}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        event.stopPropagation();
        onSet(nudged(at, by * (limits[1] - limits[0]), handle.decimals, within));
      }}
    >
      <rect x={x(at) - REACH} y={0} width={2 * REACH} height={height} />
      <line x1={x(at)} x2={x(at)} y1={4} y2={height - 4} />
      <path d={`M${x(at)} 4l7 4l-7 4z`} />
      <text x={x(at) + 10} y={12}>
        {handle.label}
      </text>
    </g>
  );
}

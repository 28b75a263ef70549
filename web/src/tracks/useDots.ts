import { type MouseEvent, useState } from "react";
import type { MarkOf, Track, WorkingsOf } from "../api/types";
import type { Scale } from "./scales";
import { scaleOf } from "./scales";

/** Pixels within which a dot is meant. */
const NEAR = 9;

/** A track with dots that open something, and where it stands. */
export interface Dotted {
  track: Track;
  x: Scale;
  top: number;
  /** Pixels of its vertical axis, from its low end to its high end. */
  from: number;
  to: number;
}

export interface Dot {
  x: number;
  y: number;
  row: number;
  /** What has that number. */
  standsFor: string;
  opens: WorkingsOf;
}

/** The dot nearest to a place, if one is near; the last of those that lie equally near. */
export function nearestDot(dotted: readonly Dotted[], px: number, py: number): Dot | null {
  let best: Dot | null = null;
  let least = NEAR ** 2;
  for (const { track, x, top, from, to } of dotted) {
    if (!track.axis || py < top + to - NEAR || py > top + from + NEAR) continue;
    const y = scaleOf(track.axis, from, to);
    for (const mark of track.marks) {
      if (mark.kind !== "points" || !mark.opens) continue;
      const found = within(mark, x, (v) => top + y(v), px, py, least);
      if (!found) continue;
      best = { ...found, standsFor: mark.stand_for, opens: mark.opens };
      least = (found.x - px) ** 2 + (found.y - py) ** 2;
    }
  }
  return best;
}

function within(
  mark: MarkOf<"points">,
  x: Scale,
  y: (v: number) => number,
  px: number,
  py: number,
  least: number,
): { x: number; y: number; row: number } | null {
  let best = null;
  let nearest = least;
  for (let k = 0; k < mark.x.length; k++) {
    const [at, up, row] = [mark.x[k], mark.y[k], mark.rows[k]];
    if (at === null || at === undefined || up === null || up === undefined) continue;
    if (row === undefined) continue;
    const [dx, dy] = [x(at) - px, y(up) - py];
    const apart = dx * dx + dy * dy;
    if (apart > nearest) continue;
    nearest = apart;
    best = { x: px + dx, y: py + dy, row };
  }
  return best;
}

/** The dot under the pointer, and what a click on it opens. */
export function useDots(dotted: readonly Dotted[], onOpen: (of: WorkingsOf) => void) {
  const [dot, setDot] = useState<Dot | null>(null);
  const under = (event: MouseEvent<HTMLElement>) => {
    if (!dotted.length) return null;
    const box = event.currentTarget.getBoundingClientRect();
    return nearestDot(dotted, event.clientX - box.left, event.clientY - box.top);
  };
  return {
    dot,
    onPointerMove: (event: MouseEvent<HTMLElement>) => {
      const found = under(event);
      if (found?.row !== dot?.row || found?.x !== dot?.x || found?.y !== dot?.y) setDot(found);
    },
    onPointerLeave: () => setDot(null),
    onClick: (event: MouseEvent<HTMLElement>) => {
      const found = under(event);
      if (found) onOpen({ ...found.opens, about: { ...found.opens.about, row: found.row } });
    },
  };
}

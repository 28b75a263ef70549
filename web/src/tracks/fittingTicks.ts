import type { Axis, Tick } from "../api/types";
import { widthOf } from "./measure";

const BETWEEN = 16;
const LINE = 30;

/** The most ticks, of the lists that the server sends, whose labels do not touch along some pixels. */
export function fittingTicks(axis: Axis, length: number, upright: boolean): readonly Tick[] {
  const room = (label: string) => (upright ? LINE : widthOf(label) + BETWEEN);
  return firstFitting(axis.ticks, room, length);
}

/** The first list whose labels find room along a length, else the last. */
export function firstFitting<T extends { label: string }>(
  levels: readonly (readonly T[])[],
  room: (label: string) => number,
  length: number,
): readonly T[] {
  const needed = (level: readonly T[]) => level.reduce((sum, tick) => sum + room(tick.label), 0);
  return levels.find((level) => needed(level) <= length) ?? levels.at(-1) ?? [];
}

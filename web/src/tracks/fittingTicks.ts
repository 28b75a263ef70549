import type { Axis, Tick } from "../api/types";
import { widthOf } from "./measure";

const BETWEEN = 16;
const LINE = 30;

/** The most ticks, of the lists that the server sends, whose labels do not touch along some pixels. */
export function fittingTicks(axis: Axis, length: number, upright: boolean): readonly Tick[] {
  for (const level of axis.ticks) {
    const needed = upright
      ? LINE * level.length
      : level.reduce((sum, tick) => sum + widthOf(tick.label) + BETWEEN, 0);
    if (needed <= length) return level;
  }
  return axis.ticks.at(-1) ?? [];
}

import { ticks as d3Ticks } from "d3-array";
import type { Axis } from "../api/types";
import { plain, ratio } from "../numbers/format";

/** Round times from 0 to the end: in months sixes and twelves, elsewhere ones, twos and fives. */
export function timeTicks(end: number, unit: string, width: number): number[] {
  const most = Math.max(2, Math.floor(width / 52));
  const months = [1, 2, 3, 6, 12, 24, 36, 60, 120];
  const step = unit.startsWith("month") ? months.find((s) => end / s <= most) : undefined;
  if (step === undefined) return d3Ticks(0, end, most).filter((t) => t >= 0 && t <= end);
  return Array.from({ length: Math.floor(end / step) + 1 }, (_, k) => k * step);
}

export interface Tick {
  at: number;
  label: string;
}

/** Labels of a vertical axis in its own form. */
export function axisTicks(axis: Axis, height: number): Tick[] {
  const most = Math.max(3, Math.floor(height / (axis.form === "ratio" ? 30 : 42)));
  if (axis.form === "ratio") return ratioTicks(axis.low, axis.high, most);
  return d3Ticks(axis.low, axis.high, most).map((at) => ({ at, label: label(axis.form, at) }));
}

function label(form: Axis["form"], at: number): string {
  if (form === "percent") return `${Math.round(100 * at)}%`;
  const value = form === "points" ? 100 * at : at;
  const text = plain(Math.abs(value), 6);
  if (value === 0) return "0";
  return value < 0 ? `−${text}` : `+${text}`;
}

/** Ones, twos and fives on a log axis, thinned until they fit. */
function ratioTicks(low: number, high: number, most: number): Tick[] {
  const decades: number[] = [];
  for (let d = Math.floor(Math.log10(low)); d <= Math.ceil(Math.log10(high)); d++) decades.push(d);
  for (const steps of [[1, 2, 5], [1, 3], [1]]) {
    const found = decades
      .flatMap((d) => steps.map((s) => s * 10 ** d))
      .filter((v) => v >= low && v <= high);
    if (found.length <= most) return found.map(ratioTick);
  }
  const every = Math.ceil(decades.length / most);
  return decades
    .filter((d) => d % every === 0)
    .map((d) => 10 ** d)
    .filter((v) => v >= low && v <= high)
    .map(ratioTick);
}

function ratioTick(at: number): Tick {
  return { at, label: at < 0.01 || at >= 1000 ? at.toExponential(0) : plain(Number(ratio(at)), 3) };
}

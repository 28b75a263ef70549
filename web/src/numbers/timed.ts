import type { Series, TimedCell } from "../api/types";
import { readSeries } from "./atTime";
import { BLANK, grouped, interval, percent, points, ratio, shareOf100 } from "./format";

type Maybe = number | null | undefined;

const WORDS: Record<TimedCell["form"], (value: Maybe) => string> = {
  percent,
  points,
  ratio,
  whole: (value) => (value === null || value === undefined ? BLANK : grouped(value)),
};

/** What a cell that follows the sand line says at a time. */
export function timedText(cell: TimedCell, series: readonly Series[], t: number): string {
  const of = series[cell.series];
  if (cell.text || !of) return cell.text;
  const value = cell.value === null ? null : readSeries(of, cell.value, t);
  const limits = cell.low === null || cell.high === null ? null : limitsAt(cell, of, t);
  if (cell.value === null) return limits ?? "none";
  const word = WORDS[cell.form](value);
  return value === null || limits === null ? word : `${word} (${limits})`;
}

/** The number that a cell shows at a time, if it shows one. */
export function timedValue(cell: TimedCell, series: readonly Series[], t: number) {
  const of = series[cell.series];
  return !of || cell.value === null ? null : readSeries(of, cell.value, t);
}

function limitsAt(cell: TimedCell, of: Series, t: number): string | null {
  const low = readSeries(of, cell.low as number, t);
  const high = readSeries(of, cell.high as number, t);
  if (low === null || high === null) return null;
  if (cell.form === "percent") return `${shareOf100(low)}–${shareOf100(high)}`;
  return interval(low, high, WORDS[cell.form]);
}

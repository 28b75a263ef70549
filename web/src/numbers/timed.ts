import type { Series, TimedCell } from "../api/types";
import { type PageOf, readSeries, sentWhole } from "./atTime";
import { BLANK, grouped, percent, points, ratios, shareOf100 } from "./format";

type Maybe = number | null | undefined;

/** What stands in a cell while its value has not arrived. */
export const AWAITED = "…";
const each =
  (word: (value: Maybe) => string) =>
  (...values: Maybe[]) =>
    values.map(word);
/** A value and its limits in words. */
const WORDS: Record<TimedCell["form"], (...values: Maybe[]) => string[]> = {
  percent: each(percent),
  points: each(points),
  ratio: ratios,
  whole: each((value) => (value === null || value === undefined ? BLANK : grouped(value))),
};

/** The value of a cell that follows the sand line at a time. */
export function timedText(
  cell: TimedCell,
  series: readonly Series[],
  t: number,
  pageOf: PageOf = sentWhole,
): string {
  const of = series[cell.series];
  if (cell.text || !of) return cell.text;
  const read = (column: number | null) =>
    column === null ? null : readSeries(of, column, t, pageOf);
  const value = read(cell.value);
  const low = read(cell.low);
  const high = read(cell.high);
  if (value === undefined || low === undefined || high === undefined) return AWAITED;
  const [word = "", lower, upper] = WORDS[cell.form](value, low, high);
  let limits: string | null = null;
  if (low !== null && high !== null)
    limits =
      cell.form === "percent" ? `${shareOf100(low)}–${shareOf100(high)}` : `${lower} to ${upper}`;
  if (cell.value === null) return limits ?? "none";
  return value === null || limits === null ? word : `${word} (${limits})`;
}

/** The number that a cell shows at a time: null if it shows none, undefined until it arrives. */
export function timedValue(
  cell: TimedCell,
  series: readonly Series[],
  t: number,
  pageOf: PageOf = sentWhole,
) {
  const of = series[cell.series];
  return !of || cell.value === null ? null : readSeries(of, cell.value, t, pageOf);
}

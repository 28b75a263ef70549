import { bisectLeft, bisectRight } from "d3-array";
import type { Series } from "../api/types";

type Maybe = number | null;

/** Index of the last entry ≤ t of an ascending list, −1 if there is none. */
export function lastAtOrBefore(times: readonly number[], t: number): number {
  return bisectRight(times, t) - 1;
}

/** Index of the first entry ≥ t of an ascending list, its length if there is none. */
export function firstAtOrAfter(times: readonly number[], t: number): number {
  return bisectLeft(times, t);
}

/** The value of a column of a series at any time; null where there is none. */
export function readSeries(series: Series, column: number, t: number): Maybe {
  const values = series.columns[column] ?? [];
  const end = series.end ?? Number.POSITIVE_INFINITY;
  if (t < 0 || t > end) return null;
  switch (series.rule) {
    case "from": {
      const k = lastAtOrBefore(series.time, t);
      return (k < 0 ? series.before[column] : values[k]) ?? null;
    }
    case "until":
      return atRiskAt(series.time, values, t);
    case "between":
      return between(series.time, values, t);
  }
}

/** The number at risk: entry < t ≤ exit, so it holds up to and at each of its times; 0 past the last. */
export function atRiskAt(times: readonly number[], numbers: readonly Maybe[], t: number): number {
  return numbers[firstAtOrAfter(times, t)] ?? 0;
}

/** Along the logarithm between the times where it is known. */
function between(times: readonly number[], values: readonly Maybe[], t: number): Maybe {
  const k = firstAtOrAfter(times, t);
  const later = times[k];
  const b = values[k];
  if (later === undefined || b === null || b === undefined) return null;
  if (later === t) return b;
  const earlier = times[k - 1];
  const a = values[k - 1];
  if (earlier === undefined || a === null || a === undefined) return null;
  const share = (t - earlier) / (later - earlier);
  return Math.exp(Math.log(a) * (1 - share) + Math.log(b) * share);
}

import { bisectLeft, bisectRight } from "d3-array";
import type { Series } from "../api/types";

type Maybe = number | null;

/** A stretch of a series: all of it, or one of its pages. */
export interface Stretch {
  time: ArrayLike<number>;
  columns: readonly ArrayLike<number | null>[];
}
/** A page of a series; undefined while it has not arrived. */
export type PageOf = (series: Series, page: number) => Stretch | undefined;

/** The one page of a series that was sent whole. */
export const sentWhole: PageOf = (series, page) =>
  page === 0 ? { time: series.time as number[], columns: series.columns } : undefined;

/** Index of the last entry ≤ t of an ascending list, −1 if there is none. */
export function lastAtOrBefore(times: ArrayLike<number>, t: number): number {
  return bisectRight(times, t) - 1;
}

/** Index of the first entry ≥ t of an ascending list, its length if there is none. */
export function firstAtOrAfter(times: ArrayLike<number>, t: number): number {
  return bisectLeft(times, t);
}

/** The page of a series in which a time is looked for. */
export function pageAt(series: Series, t: number): number {
  return Math.max(lastAtOrBefore(series.pages, t), 0);
}

/** The value of a column of a series at any time: null where there is none, undefined until it arrives. */
export function readSeries(
  series: Series,
  column: number,
  t: number,
  pageOf: PageOf = sentWhole,
): Maybe | undefined {
  if (t < 0 || t > (series.end ?? Number.POSITIVE_INFINITY)) return null;
  const page = pageAt(series, t);
  const here = pageOf(series, page);
  if (!here) return undefined;
  switch (series.rule) {
    case "from": {
      const k = lastAtOrBefore(here.time, t);
      return known(k < 0 ? series.before[column] : here.columns[column]?.[k]);
    }
    case "until": {
      const later = neighbour(series, page, here, firstAtOrAfter(here.time, t), pageOf);
      if (later === undefined) return undefined;
      return later === null ? 0 : later.value(column);
    }
    case "between": {
      const k = firstAtOrAfter(here.time, t);
      const later = neighbour(series, page, here, k, pageOf);
      const earlier = neighbour(series, page, here, k - 1, pageOf);
      if (later === undefined || earlier === undefined) return undefined;
      return between(earlier, later, column, t);
    }
  }
}

interface Entry {
  time: number;
  value: (column: number) => Maybe;
}

/** An entry of a page, or of the one before or after it; null past either end of the series. */
function neighbour(
  series: Series,
  page: number,
  here: Stretch,
  k: number,
  pageOf: PageOf,
): Entry | null | undefined {
  if (k >= 0 && k < here.time.length) return entry(here, k);
  const other = k < 0 ? page - 1 : page + 1;
  if (other < 0 || other >= Math.max(series.pages.length, 1)) return null;
  const there = pageOf(series, other);
  return there && entry(there, k < 0 ? there.time.length - 1 : 0);
}

function entry(stretch: Stretch, k: number): Entry {
  return {
    time: stretch.time[k] as number,
    value: (column) => known(stretch.columns[column]?.[k]),
  };
}

/** A page has NaN where there is no value. */
function known(value: Maybe | undefined): Maybe {
  return value === null || value === undefined || Number.isNaN(value) ? null : value;
}

/** Along the logarithm between the times where it is known. */
function between(earlier: Entry | null, later: Entry | null, column: number, t: number): Maybe {
  const b = later?.value(column) ?? null;
  if (later === null || b === null) return null;
  if (later.time === t) return b;
  const a = earlier?.value(column) ?? null;
  if (earlier === null || a === null) return null;
  const share = (t - earlier.time) / (later.time - earlier.time);
  return Math.exp(Math.log(a) * (1 - share) + Math.log(b) * share);
}

/** The next time of a series after t, or the last before it; null if there is none. */
export function nextTime(
  series: Series,
  t: number,
  by: 1 | -1,
  pageOf: PageOf = sentWhole,
): number | null | undefined {
  const page = pageAt(series, t);
  const here = pageOf(series, page);
  if (!here) return undefined;
  const k = by > 0 ? lastAtOrBefore(here.time, t) + 1 : firstAtOrAfter(here.time, t) - 1;
  const found = neighbour(series, page, here, k, pageOf);
  return found === undefined ? undefined : (found?.time ?? null);
}

/** How numbers are worded: the same rules as the report's (methods.md, section 7). */

export const NOT_REACHED = "not reached";
export const BLANK = "—";

export function pValue(p: number | null | undefined): string {
  if (p === null || p === undefined) return BLANK;
  return p < 0.001 ? "< 0.001" : p.toFixed(3);
}

export function percent(share: number | null | undefined): string {
  return share === null || share === undefined ? BLANK : `${(100 * share).toFixed(1)}%`;
}

/** Percentage points with their sign. */
export function points(share: number | null | undefined): string {
  if (share === null || share === undefined) return BLANK;
  const value = (100 * share).toFixed(1);
  return share < 0 ? value.replace("-", "−") : `+${value}`;
}

/** Two decimals; three significant digits under 0.1. */
export function ratio(value: number | null | undefined): string {
  if (value === null || value === undefined) return BLANK;
  if (value > 0 && value < 0.1) {
    const digits = 2 - Math.floor(Math.log10(value));
    return digits <= 8 ? value.toFixed(digits) : value.toExponential(2);
  }
  return value < 1e6 ? value.toFixed(2) : value.toExponential(2);
}

export function time(value: number | null | undefined, digits: number): string {
  return value === null || value === undefined ? NOT_REACHED : value.toFixed(digits);
}

export function statistic(value: number | null | undefined): string {
  return value === null || value === undefined ? BLANK : value.toFixed(2);
}

export function whole(n: number): string {
  return n.toLocaleString("en-GB").replace(/,/g, "\u202f");
}

/** A number without needless zeros, at most `digits` significant ones. */
export function plain(value: number, digits = 10): string {
  return String(Number(value.toPrecision(digits)));
}

/** "12.3 to 45.6", or in words where a limit is missing. */
export function interval(
  low: number | null | undefined,
  high: number | null | undefined,
  word: (value: number | null | undefined) => string,
): string {
  // Neither limit is ever met.
  if (word(low) === NOT_REACHED && word(high) === NOT_REACHED) return NOT_REACHED;
  return `${word(low)} to ${word(high)}`;
}

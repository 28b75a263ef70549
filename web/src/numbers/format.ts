/**
 * How numbers are worded: the rules of the server (methods.md, section 10: How numbers are shown).
 * `toFixed` and `toPrecision` round half away from zero of the exact binary value, as the server does;
 * the unrounded value decides which rule applies.
 */

export const NOT_REACHED = "not reached";
export const INFINITE = "infinite";
export const BLANK = "—";
const MINUS = "−";
const ALPHA = 0.05;
const MOST_DECIMALS = 17;
type Maybe = number | null | undefined;

/** So many decimals; zero has no sign, a minus is U+2212. */
export function rounded(value: number, decimals: number): string {
  return signed(value.toFixed(decimals));
}

function signed(text: string): string {
  if (!text.startsWith("-")) return text;
  const size = text.slice(1);
  return /[1-9]/.test(size) ? MINUS + size : size;
}

/** Three decimals, more where three would put p on or across α. */
export function pValue(p: Maybe, alpha = ALPHA): string {
  if (p === null || p === undefined) return BLANK;
  if (p < 0.001) return "< 0.001";
  if (p > 0.999) return "> 0.999";
  for (let decimals = 3; decimals < MOST_DECIMALS; decimals++) {
    const text = p.toFixed(decimals);
    const shown = Number(text);
    if (shown !== alpha && shown < alpha === p < alpha) return text;
  }
  return p.toFixed(3);
}

export function percent(share: Maybe): string {
  return share === null || share === undefined ? BLANK : `${shareOf100(share)}%`;
}

/** A share in percent, without the sign. */
export function shareOf100(share: number): string {
  // The double next to 0.9995 lies above it.
  if (share >= 0.9995 && share < 1) return "> 99.9";
  if (share > 0 && share < 0.0005) return "< 0.1";
  return roundedPercent(share);
}

/** A share, or a difference of shares, rounded to three decimals and shifted: never 100 times it. */
function roundedPercent(share: number): string {
  const [, sign = "", whole = "0", part = "000"] =
    /^(-?)(\d+)\.(\d{3})$/.exec(share.toFixed(3)) ?? [];
  return signed(`${sign}${Number(whole + part.slice(0, 2))}.${part.slice(2)}`);
}

/** Percentage points with their sign. */
export function points(share: Maybe): string {
  if (share === null || share === undefined) return BLANK;
  const text = roundedPercent(share);
  return text.startsWith(MINUS) || !/[1-9]/.test(text) ? text : `+${text}`;
}

/** Two decimals; three significant digits under 0.1; in words at and near 0 and infinity. */
export function ratio(value: Maybe): string {
  if (value === null || value === undefined) return BLANK;
  if (value === 0) return "zero";
  if (value >= 1e6) return value === Number.POSITIVE_INFINITY ? INFINITE : "over 1000000";
  if (value < 1e-6) return "under 0.000001";
  return value >= 0.1 ? value.toFixed(2) : threeDigits(value);
}

/** Three significant digits, without powers of ten. */
function threeDigits(value: number): string {
  const [digits = "", power = "0"] = value.toExponential(2).split("e");
  return `0.${"0".repeat(-Number(power) - 1)}${digits.replace(".", "")}`;
}

/** A time of the data, with its decimals. */
export function time(value: Maybe, decimals: number): string {
  if (value === null || value === undefined) return NOT_REACHED;
  return value === Number.POSITIVE_INFINITY ? INFINITE : rounded(value, decimals);
}

/** A midpoint, a mean: one decimal more than the data, unless the value is the shorter number. */
export function computedTime(value: Maybe, decimals: number): string {
  if (value === null || value === undefined || !Number.isFinite(value))
    return time(value, decimals);
  const short = value.toFixed(decimals);
  const same = Math.abs(value - Number(short)) <= 1e-9 * Math.abs(value);
  return same ? signed(short) : rounded(value, decimals + 1);
}

/** The time under the sand line: as many decimals as the data have, without needless zeros. */
export function timeText(t: number, decimals: number): string {
  return String(Number(t.toFixed(decimals)));
}

export function statistic(value: Maybe): string {
  return value === null || value === undefined ? BLANK : rounded(value, 2);
}

/** Digits in threes, set apart by a narrow space. */
export function grouped(n: number): string {
  return n.toLocaleString("en-GB").replace(/,/g, "\u202f").replace("-", MINUS);
}

/** A number without needless zeros, at most `digits` significant ones. */
export function plain(value: number, digits = 10): string {
  return signed(String(Number(value.toPrecision(digits))));
}

/** "12.3 to 45.6", or in words where a limit is missing. */
export function interval(low: Maybe, high: Maybe, word: (value: Maybe) => string): string {
  // Neither limit is ever met.
  if (word(low) === NOT_REACHED && word(high) === NOT_REACHED) return NOT_REACHED;
  return `${word(low)} to ${word(high)}`;
}

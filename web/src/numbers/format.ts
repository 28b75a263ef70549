/**
 * How numbers are worded at the sand line: the rules of the server
 * (methods.md, section 10: How numbers are shown). `toFixed` and `toPrecision` round half away from zero
 * of the exact binary value, as the server does; the unrounded value decides which rule applies.
 */

const INFINITE = "infinite";
export const BLANK = "—";
const MINUS = "−";
const NARROW_SPACE = "\u202f";
type Maybe = number | null | undefined;

/** Zero has no sign, a minus is U+2212, thousands are set apart. */
function shown(text: string): string {
  const size = text.replace(/^-/, "");
  const sign = text.startsWith("-") && /[1-9]/.test(size) ? MINUS : "";
  const [whole = "", part] = size.split(".");
  const inThrees = whole.replace(/\B(?=(\d{3})+$)/g, NARROW_SPACE);
  return sign + (part === undefined ? inThrees : `${inThrees}.${part}`);
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
  return shown(`${sign}${Number(whole + part.slice(0, 2))}.${part.slice(2)}`);
}

/** Percentage points with their sign. */
export function points(share: Maybe): string {
  if (share === null || share === undefined) return BLANK;
  const text = roundedPercent(share);
  return text.startsWith(MINUS) || !/[1-9]/.test(text) ? text : `+${text}`;
}

/** A ratio and its limits: those from 0.1 on share their decimals, which distinguish each of them from 1. */
export function ratios(...values: Maybe[]): string[] {
  const from = values.filter((v): v is number => typeof v === "number" && v >= 0.1 && v < 1e6);
  const differ = from.filter((v) => Math.abs(v - 1) > 1e-6);
  const decimals = [2, 3].find((k) => differ.every((v) => Number(v.toFixed(k)) !== 1)) ?? 4;
  return values.map((value) => oneRatio(value, decimals));
}

/** In words at and near 0 and infinity; below 0.1 with three significant digits of its own. */
function oneRatio(value: Maybe, decimals: number): string {
  if (value === null || value === undefined) return BLANK;
  if (value === 0) return "zero";
  if (value >= 1e6) return value === Number.POSITIVE_INFINITY ? INFINITE : `over ${grouped(1e6)}`;
  if (value < 1e-6) return "under 0.000001";
  return value >= 0.1 ? shown(value.toFixed(decimals)) : threeDigits(value);
}

/** Three significant digits, without powers of ten. */
function threeDigits(value: number): string {
  const [digits = "", power = "0"] = value.toExponential(2).split("e");
  return `0.${"0".repeat(-Number(power) - 1)}${digits.replace(".", "")}`;
}

/** The time under the sand line: as many decimals as the data have, without needless zeros. */
export function timeText(t: number, decimals: number): string {
  return String(Number(t.toFixed(decimals)));
}

/** A time that is set against another: with decimals that distinguish them. */
export function timeAgainst(t: number, other: number, decimals: number): string {
  let more = decimals;
  while (t !== other && more < 17 && t.toFixed(more) === other.toFixed(more)) more += 1;
  return shown(t.toFixed(more));
}

/** Digits in threes, set apart by a narrow space. */
export function grouped(n: number): string {
  return shown(String(n));
}

/** A number as it is typed: without needless zeros or spaces, at most `digits` significant ones. */
export function plain(value: number, digits = 10): string {
  return String(Number(value.toPrecision(digits))).replace(/^-/, MINUS);
}

import { expect, test } from "vitest";
import shared from "../../../tests/wording_cases.json";
import { grouped, percent, plain, points, ratios, timeAgainst, timeText } from "./format";

type Value = number | null;

// The same cases are put to the server's formatting, so that what follows the sand line reads like the rest.
const cases = shared as unknown as Record<string, [unknown, string | string[]][]>;

const WORDERS: Record<string, (value: unknown) => string | string[]> = {
  ratio: (value) => ratios(value as Value)[0] as string,
  ratios: (values) => ratios(...(values as Value[])),
  percent: (value) => percent(value as Value),
  points: (value) => points(value as Value),
  plain: (value) => plain(value as number),
  grouped: (value) => grouped(value as number),
  times_apart: (given) => {
    const [[one, other], decimals] = given as [[number, number], number];
    return [timeAgainst(one, other, decimals), timeAgainst(other, one, decimals)];
  },
};
/** What the server alone puts into words. */
const OF_THE_SERVER = [
  "p_value",
  "time",
  "statistic",
  "computed_time",
  "coefficient",
  "time_decimals",
];

test("every kind of case is put to somebody", () => {
  expect(Object.keys(cases).sort()).toEqual([...Object.keys(WORDERS), ...OF_THE_SERVER].sort());
});

for (const [name, word] of Object.entries(WORDERS))
  test.each(cases[name] ?? [])(`${name} of %s is %s`, (value, words) => {
    expect(word(value)).toEqual(words);
  });

test("the time under the sand line has no needless zeros", () => {
  expect([12, 52.00821355, 33.5].map((t) => timeText(t, 4))).toEqual(["12", "52.0082", "33.5"]);
});

test("plain keeps the digits requested and no others", () => {
  expect(plain(0.123456789, 4)).toBe("0.1235");
  expect(plain(1e-7)).toBe("1e-7");
});

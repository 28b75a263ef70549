import { expect, test } from "vitest";
import shared from "../../../tests/wording_cases.json";
import {
  computedTime,
  grouped,
  interval,
  percent,
  plain,
  points,
  pValue,
  ratio,
  statistic,
  time,
  timeText,
} from "./format";

type Value = number | null;
type Cases = Record<string, [Value | [Value, number], string][]>;

// The same cases are put to the report's wording, so that screen and report never differ.
const cases = shared as unknown as Cases;

const WORDERS: Record<string, (value: Value) => string> = {
  p_value: pValue,
  ratio,
  percent,
  points,
  statistic,
  plain: (value) => plain(value as number),
  grouped: (value) => grouped(value as number),
};
/** Those that are told how many decimals the data have. */
const TIMES: Record<string, (value: Value, decimals: number) => string> = {
  time,
  computed_time: computedTime,
};

for (const [name, list] of Object.entries(cases))
  test.each(list)(`${name} of %s is %s`, (value, words) => {
    const said = Array.isArray(value) ? TIMES[name]?.(...value) : WORDERS[name]?.(value);
    expect(said).toBe(words);
  });

test("an interval without any limit is said once", () => {
  const word = (v: number | null | undefined) => time(v, 1);
  expect(interval(1, 2, word)).toBe("1.0 to 2.0");
  expect(interval(1, null, word)).toBe("1.0 to not reached");
  expect(interval(null, null, word)).toBe("not reached");
});

test("the time under the sand line has no needless zeros", () => {
  expect([12, 52.00821355, 33.5].map((t) => timeText(t, 4))).toEqual(["12", "52.0082", "33.5"]);
});

test("plain keeps the digits asked for and no others", () => {
  expect(plain(0.123456789, 4)).toBe("0.1235");
  expect(plain(1e-7)).toBe("1e-7");
});

import { expect, test } from "vitest";
import shared from "../../../tests/wording_cases.json";
import { interval, percent, plain, points, pValue, ratio, statistic, time, whole } from "./format";

type Cases = Record<string, [number | null, string][]>;

// The same cases are put to the report's wording, so that screen and report never differ.
const cases = shared as unknown as Cases;

const WORDERS: Record<string, (value: number | null) => string> = {
  p_value: pValue,
  ratio,
  percent,
  time: (value) => time(value, 1),
  statistic,
  plain: (value) => plain(value as number),
};

for (const [name, list] of Object.entries(cases))
  test.each(list)(`${name} of %s is %s`, (value, words) => {
    expect(WORDERS[name]?.(value)).toBe(words);
  });

test("points carry their sign", () => {
  expect(points(0.1204)).toBe("+12.0");
  expect(points(-0.05)).toBe("−5.0");
  expect(points(null)).toBe("—");
});

test("an interval without any limit is said once", () => {
  const word = (v: number | null | undefined) => time(v, 1);
  expect(interval(1, 2, word)).toBe("1.0 to 2.0");
  expect(interval(1, null, word)).toBe("1.0 to not reached");
  expect(interval(null, null, word)).toBe("not reached");
});

test("whole numbers are grouped by thin spaces", () => {
  expect(whole(1234567)).toBe("1\u202f234\u202f567");
  expect(whole(12)).toBe("12");
});

test("plain keeps the digits asked for and no others", () => {
  expect(plain(0.123456789, 4)).toBe("0.1235");
  expect(plain(1e-7)).toBe("1e-7");
});

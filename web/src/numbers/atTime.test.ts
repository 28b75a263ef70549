import { describe, expect, test } from "vitest";
import type { Series, TimedCell } from "../api/types";
import { firstAtOrAfter, lastAtOrBefore, nextTime, type PageOf, readSeries } from "./atTime";
import { timedText, timedValue } from "./timed";

describe("searching ascending times", () => {
  const times = [1, 3, 3.5, 9];
  test.each([
    [0.5, -1, 0],
    [1, 0, 0],
    [2, 0, 1],
    [3.5, 2, 2],
    [9, 3, 3],
    [10, 3, 4],
  ])("at %s the last before is %s and the first after %s", (t, before, after) => {
    expect(lastAtOrBefore(times, t)).toBe(before);
    expect(firstAtOrAfter(times, t)).toBe(after);
  });
  test("an empty list has neither", () => {
    expect(lastAtOrBefore([], 1)).toBe(-1);
    expect(firstAtOrAfter([], 1)).toBe(0);
  });
});

const series = (of: Partial<Series>): Series => ({
  rule: "from",
  time: [],
  columns: [],
  before: [null],
  end: null,
  pages: [],
  key: null,
  length: 0,
  ...of,
});

test("the number at risk holds up to and at each of its times", () => {
  const numbers = series({ rule: "until", time: [2, 5, 7], columns: [[10, 6, 1]] });
  const found = [0, 2, 2.1, 5, 6, 7, 7.1].map((t) => readSeries(numbers, 0, t));
  expect(found).toEqual([10, 10, 6, 6, 1, 1, 0]);
});

const CURVE = series({
  rule: "from",
  time: [2, 5, 8],
  columns: [
    [0.75, 0.5, 0],
    [0.3, 0.1, null],
    [0.9, 0.8, null],
  ],
  before: [1, 1, 1],
  end: 8,
});
const RATIO = series({
  rule: "between",
  time: [1, 3],
  columns: [[1, 4]],
  before: [null],
  end: 3,
});

describe("a series at any time", () => {
  const at = (t: number) => [0, 1, 2].map((column) => readSeries(CURVE, column, t));
  test("before the first event it is certain", () => {
    expect(at(1)).toEqual([1, 1, 1]);
  });
  test("a step holds until the next", () => {
    expect(at(4.9)).toEqual([0.75, 0.3, 0.9]);
  });
  test("at 0 there is no interval", () => {
    expect(at(8)).toEqual([0, null, null]);
  });
  test("past its end it is not read", () => {
    expect(at(8.01)).toEqual([null, null, null]);
    expect(at(-1)).toEqual([null, null, null]);
  });
  test("a ratio moves along the logarithm", () => {
    expect(readSeries(RATIO, 0, 2)).toBeCloseTo(2, 12);
    expect([0.9, 1, 3, 3.1].map((t) => readSeries(RATIO, 0, t))).toEqual([null, 1, 4, null]);
  });
});

describe("a series in pages", () => {
  const pages: Record<number, { time: number[]; columns: number[][] }> = {
    0: { time: [1, 2], columns: [[10, 20]] },
    1: { time: [4, 8], columns: [[40, Number.NaN]] },
  };
  const inPages = (rule: Series["rule"]) =>
    series({ rule, columns: [[]], before: [5], pages: [1, 4], key: 0, length: 4 });
  const all: PageOf = (_, page) => pages[page];
  const second: PageOf = (_, page) => (page === 1 ? pages[1] : undefined);
  const read = (rule: Series["rule"], t: number, pageOf = all) =>
    readSeries(inPages(rule), 0, t, pageOf);
  test("a value holds on into the next page", () => {
    expect([0.5, 1, 3.9, 4, 8].map((t) => read("from", t))).toEqual([5, 10, 20, 40, null]);
  });
  test("a number at risk is looked for in the next page", () => {
    expect([0.5, 2, 3, 4.1, 9].map((t) => read("until", t))).toEqual([10, 20, 40, null, 0]);
  });
  test("a ratio moves from one page to the next", () => {
    expect(read("between", 3)).toBeCloseTo(Math.sqrt(800), 12);
  });
  test("what has not arrived is awaited, not guessed", () => {
    expect(read("from", 3, second)).toBeUndefined();
    expect(read("from", 5, second)).toBe(40);
    expect(read("between", 3, second)).toBeUndefined();
  });
  test("the next time and the last are found across pages", () => {
    const from = inPages("from");
    expect([0, 1, 2, 4, 8].map((t) => nextTime(from, t, 1, all))).toEqual([1, 2, 4, 8, null]);
    expect([1, 4, 9].map((t) => nextTime(from, t, -1, all))).toEqual([null, 2, 8]);
    expect(nextTime(from, 2, 1, (_, page) => (page === 0 ? pages[0] : undefined))).toBeUndefined();
  });
});

describe("a cell that follows the sand line", () => {
  const cell = (more: Partial<TimedCell>): TimedCell => ({
    text: "",
    form: "percent",
    series: 0,
    value: null,
    low: null,
    high: null,
    workings: null,
    ...more,
  });
  const read = [CURVE];
  test("states a value, an interval, or both", () => {
    expect(timedText(cell({ value: 0 }), read, 3)).toBe("75.0%");
    expect(timedText(cell({ low: 1, high: 2 }), read, 3)).toBe("30.0–90.0");
    const both = cell({ form: "ratio", value: 0, low: 1, high: 2 });
    expect(timedText(both, read, 3)).toBe("0.75 (0.30 to 0.90)");
  });
  test("states it where there is none", () => {
    expect(timedText(cell({ value: 0 }), read, 9)).toBe("—");
    expect(timedText(cell({ low: 1, high: 2 }), read, 8)).toBe("none");
    expect(timedValue(cell({ low: 1, high: 2 }), read, 3)).toBeNull();
  });
  test("states that its value is on its way", () => {
    const awaited = timedText(cell({ value: 0 }), read, 3, () => undefined);
    expect(awaited).toBe("…");
  });
  test("states its text where it does not follow the line", () => {
    expect(timedText(cell({ text: "1.20" }), read, 3)).toBe("1.20");
  });
});

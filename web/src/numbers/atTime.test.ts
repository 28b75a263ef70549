import { describe, expect, test } from "vitest";
import type { Series, TimedCell } from "../api/types";
import { atRiskAt, firstAtOrAfter, lastAtOrBefore, readSeries } from "./atTime";
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

test("the number at risk holds up to and at each of its times", () => {
  const times = [2, 5, 7];
  const numbers = [10, 6, 1];
  const found = [0, 2, 2.1, 5, 6, 7, 7.1].map((t) => atRiskAt(times, numbers, t));
  expect(found).toEqual([10, 10, 6, 6, 1, 1, 0]);
});

const CURVE: Series = {
  rule: "from",
  time: [2, 5, 8],
  columns: [
    [0.75, 0.5, 0],
    [0.3, 0.1, null],
    [0.9, 0.8, null],
  ],
  before: [1, 1, 1],
  end: 8,
};
const RATIO: Series = {
  rule: "between",
  time: [1, 3],
  columns: [[1, 4]],
  before: [null],
  end: 3,
};

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
  const series = [CURVE];
  test("says a value, an interval, or both", () => {
    expect(timedText(cell({ value: 0 }), series, 3)).toBe("75.0%");
    expect(timedText(cell({ low: 1, high: 2 }), series, 3)).toBe("30.0–90.0");
    const both = cell({ form: "ratio", value: 0, low: 1, high: 2 });
    expect(timedText(both, series, 3)).toBe("0.75 (0.30 to 0.90)");
  });
  test("says so where there is none", () => {
    expect(timedText(cell({ value: 0 }), series, 9)).toBe("—");
    expect(timedText(cell({ low: 1, high: 2 }), series, 8)).toBe("none");
    expect(timedValue(cell({ low: 1, high: 2 }), series, 3)).toBeNull();
  });
  test("says its text where it does not follow the line", () => {
    expect(timedText(cell({ text: "1.20" }), series, 3)).toBe("1.20");
  });
});

import { describe, expect, test } from "vitest";
import type { CurveReading } from "../api/types";
import { atRiskAt, curveAt, firstAtOrAfter, lastAtOrBefore } from "./atTime";

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

const CURVE: CurveReading = {
  label: "a",
  tone: 0,
  subjects: 4,
  moved_on: 0,
  events: 3,
  last: 8,
  thin_from: null,
  time: [2, 5, 8],
  survival: [0.75, 0.5, 0],
  lower: [0.3, 0.1, null],
  upper: [0.9, 0.8, null],
  events_so_far: [1, 2, 4],
  at_risk_time: [2, 5, 8],
  at_risk: [4, 3, 2],
  quartiles: [],
  points: [],
};

describe("a curve at any time", () => {
  test("before the first event it is certain", () => {
    expect(curveAt(CURVE, 1)).toEqual({ survival: 1, lower: 1, upper: 1, atRisk: 4, events: 0 });
  });
  test("a step holds until the next", () => {
    expect(curveAt(CURVE, 4.9)).toEqual({
      survival: 0.75,
      lower: 0.3,
      upper: 0.9,
      atRisk: 3,
      events: 1,
    });
  });
  test("at 0 there is no interval", () => {
    expect(curveAt(CURVE, 8)).toMatchObject({ survival: 0, lower: null, upper: null });
  });
  test("past its end it is not read", () => {
    expect(curveAt(CURVE, 8.01)).toMatchObject({ survival: null, atRisk: 0 });
    expect(curveAt(CURVE, -1).survival).toBeNull();
  });
});

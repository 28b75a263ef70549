import { expect, test } from "vitest";
import { nudged } from "./nudged";

const whole = (value: number) => Math.min(Math.max(Math.round(value), 0), 9);

test("an arrow moves a whole number by one where its step is less", () => {
  expect(nudged(4, 0.09, 0, whole)).toBe(5);
  expect(nudged(4, -0.09, 0, whole)).toBe(3);
});

test("a step of more than a unit is taken as it is, and none leads out of the range", () => {
  expect(nudged(4, 3.2, 0, whole)).toBe(7);
  expect(nudged(9, 0.09, 0, whole)).toBe(9);
});

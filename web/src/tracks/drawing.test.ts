import { describe, expect, test } from "vitest";
import type { Area, Line } from "../api/types";
import { toneColour, toneDash } from "./palette";
import { areaPath, lineEnd, linePath } from "./paths";
import { axisTicks, timeTicks } from "./ticks";

const same = (v: number) => v;
const LINE: Line = {
  label: "a",
  tone: 0,
  x: [0, 2, 5],
  y: [1, 0.5, 0.25],
  step: true,
  end: 8,
};

describe("lines", () => {
  test("a step line turns corners and is carried to its end", () => {
    expect(linePath(LINE, same, same)).toBe("M0,1L2,1L2,0.5L5,0.5L5,0.25L8,0.25L8,0.25");
    expect(lineEnd(LINE)).toEqual([8, 0.25]);
  });
  test("nothing is drawn past the end", () => {
    expect(lineEnd({ ...LINE, end: 4 })).toEqual([4, 0.5]);
  });
  test("a line stops where it is no longer defined", () => {
    expect(lineEnd({ ...LINE, y: [1, 0.5, null] })).toEqual([5, 0.5]);
  });
  test("a straight line is straight", () => {
    expect(linePath({ ...LINE, step: false, end: null }, same, same)).toBe("M0,1L2,0.5L5,0.25");
  });
  test("an empty line has no end", () => {
    expect(lineEnd({ ...LINE, x: [], y: [] })).toBeNull();
    expect(linePath({ ...LINE, x: [], y: [] }, same, same)).toBe("");
  });
});

test("a band closes on itself and breaks off where a limit is missing", () => {
  const band: Area = {
    label: "b",
    tone: 0,
    x: [0, 2, 5],
    low: [1, 0.2, null],
    high: [1, 0.8, null],
    step: true,
    end: 8,
  };
  const drawn = areaPath(band, same, same);
  expect(drawn.startsWith("M0,1")).toBe(true);
  expect(drawn.endsWith("Z")).toBe(true);
  expect(drawn).not.toContain("8,");
  expect(drawn).toContain("5,0.8");
});

describe("ticks of time", () => {
  test("months go by sixes and twelves", () => {
    expect(timeTicks(60, "months", 560)).toEqual([0, 6, 12, 18, 24, 30, 36, 42, 48, 54, 60]);
    expect(timeTicks(78, "months", 500)).toEqual([0, 12, 24, 36, 48, 60, 72]);
  });
  test.each([
    [1200, "hours", 520],
    [0.8, "years", 520],
    [3, "days", 200],
    [5000, "months", 520],
  ])("%s %s have few, round ticks within follow-up", (end, unit, width) => {
    const found = timeTicks(end, unit, width);
    expect(found[0]).toBe(0);
    expect(found.length).toBeGreaterThan(1);
    expect(found.length).toBeLessThan(14);
    expect(Math.max(...found)).toBeLessThanOrEqual(end);
  });
});

describe("ticks of an axis", () => {
  const labels = (low: number, high: number, form: "percent" | "points" | "number" | "ratio") =>
    axisTicks({ low, high, form }, 140).map((t) => t.label);
  test("percent", () => expect(labels(0, 1, "percent")).toEqual(["0%", "50%", "100%"]));
  test("points carry a sign", () =>
    expect(labels(-0.22, 0.22, "points")).toEqual(["−20", "0", "+20"]));
  test("numbers carry a sign", () =>
    expect(labels(-12, 12, "number")).toEqual(["−10", "0", "+10"]));
  test("ratios go by ones, twos and fives, or fewer", () => {
    expect(labels(0.4, 2.5, "ratio")).toEqual(["0.5", "1", "2"]);
    expect(labels(0.01, 100, "ratio")).toContain("1");
    expect(labels(1e-6, 1e6, "ratio").length).toBeLessThanOrEqual(4);
  });
});

test("every tone has a colour and its own dash, and ink has none", () => {
  const dashes = [0, 1, 2, 3, 4, 5].map(toneDash);
  expect(new Set(dashes).size).toBe(6);
  expect(dashes[1]).toBeUndefined();
  expect(toneDash(-1)).toBeUndefined();
  expect(toneColour(-1)).toBe("var(--tone-ink)");
  expect(toneColour(7)).toBe(toneColour(1));
});

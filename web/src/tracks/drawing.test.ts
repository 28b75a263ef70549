import { describe, expect, test } from "vitest";
import type { Axis } from "../api/types";
import { toneColour, toneDash } from "../theme/tones";
import { apart } from "./apart";
import { moved, whole, zoomed } from "./extent";
import { fittingTicks } from "./fittingTicks";
import { shortened, wrapped } from "./measure";
import { areaPath, lineEnd, linePath } from "./paths";

const same = (v: number) => v;
const RUN = { x: [0, 2, 5], step: true, end: 8 };
const Y = [1, 0.5, 0.25];

describe("lines", () => {
  test("a step line turns corners and is carried to its end", () => {
    expect(linePath(RUN, Y, same, same)).toBe("M0,1L2,1L2,0.5L5,0.5L5,0.25L8,0.25L8,0.25");
    expect(lineEnd(RUN, Y)).toEqual([8, 0.25]);
  });
  test("nothing is drawn past the end", () => {
    expect(lineEnd({ ...RUN, end: 4 }, Y)).toEqual([4, 0.5]);
  });
  test("a line stops where it is no longer defined", () => {
    expect(lineEnd(RUN, [1, 0.5, null])).toEqual([5, 0.5]);
  });
  test("a straight line is straight", () => {
    expect(linePath({ ...RUN, step: false, end: null }, Y, same, same)).toBe("M0,1L2,0.5L5,0.25");
  });
  test("an empty line has no end", () => {
    const empty = { ...RUN, x: [] };
    expect(lineEnd(empty, [])).toBeNull();
    expect(linePath(empty, [], same, same)).toBe("");
  });
});

test("a band closes on itself and breaks off where a limit is missing", () => {
  const drawn = areaPath(RUN, [1, 0.2, null], [1, 0.8, null], same, same);
  expect(drawn.startsWith("M0,1")).toBe(true);
  expect(drawn.endsWith("Z")).toBe(true);
  expect(drawn).not.toContain("8,");
  expect(drawn).toContain("5,0.8");
});

test("of the lists of ticks the first whose labels do not touch is taken", () => {
  const level = (n: number) =>
    Array.from({ length: n }, (_, k) => ({ at: k, label: `${1000 + k}` }));
  const axis = { ticks: [level(40), level(10), level(4)] } as unknown as Axis;
  expect(fittingTicks(axis, 500, false)).toHaveLength(10);
  expect(fittingTicks(axis, 100, false)).toHaveLength(4);
  expect(fittingTicks(axis, 300, true)).toHaveLength(10);
});

describe("labels moved apart", () => {
  const touching = (middles: number[], heights: number[]) => {
    const order = middles.map((_, k) => k).sort((a, b) => (middles[a] ?? 0) - (middles[b] ?? 0));
    return order.some((k, i) => {
      const next = order[i + 1];
      if (next === undefined) return false;
      const gap = (middles[next] ?? 0) - (middles[k] ?? 0);
      return gap < ((heights[k] ?? 0) + (heights[next] ?? 0)) / 2 - 1e-9;
    });
  };
  test.each([
    [
      [50, 51, 52],
      [15, 30, 15],
    ],
    [
      [0, 0, 0, 0],
      [15, 15, 15, 15],
    ],
    [
      [200, 199, 198, 197],
      [30, 15, 30, 15],
    ],
  ])("wanted at %j with heights %j", (wanted, heights) => {
    const found = apart(wanted, heights, 0, 200);
    expect(touching(found, heights)).toBe(false);
    expect(Math.max(...found)).toBeLessThanOrEqual(200);
  });
  test("labels that do not touch stay where they are", () => {
    expect(apart([20, 100], [15, 15], 0, 200)).toEqual([20, 100]);
  });
});

describe("the part of the axis that is shown", () => {
  const limits: [number, number] = [0, 100];
  test("zooming keeps the place under the pointer", () => {
    expect(zoomed(limits, 20, 0.5, limits)).toEqual([10, 60]);
  });
  test("nothing beyond the axis is shown", () => {
    expect(zoomed([10, 60], 20, 9, limits)).toEqual(limits);
    expect(moved([10, 60], -3, limits)).toEqual([0, 50]);
    expect(moved([10, 60], 3, limits)).toEqual([50, 100]);
    expect(whole([0, 100], limits) && !whole([0, 99], limits)).toBe(true);
  });
  test("it is never nothing", () => {
    const [low, high] = zoomed([50, 50.0001], 50, 1e-9, limits);
    expect(high).toBeGreaterThan(low);
  });
});

test("long names keep 24 letters, in two lines at most", () => {
  expect(shortened("twenty-four letters here", 24)).toBe("twenty-four letters here");
  expect(shortened("twenty-five letters here!", 24)).toBe("twenty-five letters her…");
  expect(wrapped("new drops given twice a day for long", 24, 2)).toEqual([
    "new drops given twice a",
    "day for long",
  ]);
  expect(wrapped("a bb ccc dddd", 5, 2)).toEqual(["a bb", "ccc…"]);
});

test("every tone has a colour and its own dash, and ink has none", () => {
  const dashes = [0, 1, 2, 3, 4, 5].map(toneDash);
  expect(new Set(dashes).size).toBe(6);
  expect(dashes[1]).toBeUndefined();
  expect(toneDash(-1)).toBeUndefined();
  expect(toneColour(-1)).toBe("var(--tone-ink)");
  expect(toneColour(7)).toBe(toneColour(1));
});

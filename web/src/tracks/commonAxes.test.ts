import { expect, test } from "vitest";
import type { Figure } from "../api/types";
import { withCommonAxes } from "./commonAxes";

const axis = (low: number, high: number, form = "number") =>
  ({ label: "", form, low, high, ticks: [] }) as unknown as NonNullable<
    Figure["tracks"][number]["axis"]
  >;
const figure = (high: number, label: string, tracks: [string, ReturnType<typeof axis>][]) =>
  ({
    low: 0,
    high,
    across: { ...axis(0, high), label },
    tracks: tracks.map(([id, own]) => ({ id, axis: own })),
  }) as unknown as Figure;

test("figures beside each other share the longest time and the widest axis of each track", () => {
  const a = figure(60, "Months", [
    ["survival", axis(0, 1)],
    ["hazard", axis(0, 0.2)],
  ]);
  const b = figure(99.5, "Months", [["hazard", axis(-0.1, 0.1)]]);
  const made = withCommonAxes(a, [a, b]);
  expect([made.low, made.high, made.across.high]).toEqual([0, 99.5, 99.5]);
  expect(made.tracks.map((track) => [track.axis?.low, track.axis?.high])).toEqual([
    [0, 1],
    [-0.1, 0.2],
  ]);
  expect(withCommonAxes(b, [a, b]).high).toBe(99.5);
});

test("an axis of something else is not shared", () => {
  const a = figure(60, "Months", [["x", axis(0, 1)]]);
  const other = figure(90, "Age", [["x", axis(0, 9)]]);
  expect(withCommonAxes(a, [a, other])).toBe(a);
  const ratio = figure(90, "Months", [["x", axis(0, 9, "ratio")]]);
  expect(withCommonAxes(a, [a, ratio]).tracks[0]?.axis?.high).toBe(1);
});

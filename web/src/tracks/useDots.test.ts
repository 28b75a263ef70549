import { describe, expect, test } from "vitest";
import type { Track } from "../api/types";
import { type Dotted, nearestDot } from "./useDots";

const OPENS = { stage: "check", figure: "residual", about: {} };

/** A track 100 pixels high over 0 to 10, its axis from 90 up to 10 pixels below its top. */
function dotted(top: number, x: number[], y: (number | null)[], rows: number[]): Dotted {
  const mark = {
    kind: "points",
    label: "rows",
    glyph: "dot",
    x,
    y,
    rows,
    stand_for: "tenth",
    opens: OPENS,
  };
  const axis = { low: 0, high: 10, form: "number" };
  const track = { id: "t", title: "T", axis, marks: [mark] } as unknown as Track;
  const x10 = Object.assign((v: number) => 10 * v, { invert: (px: number) => px / 10 });
  return { track, x: x10, top, from: 90, to: 10 };
}

describe("the dot that is meant", () => {
  const one = dotted(0, [1, 2, 2], [5, 5, null], [11, 12, 13]);
  test("is the nearest, with its row and what it opens", () => {
    expect(nearestDot([one], 12, 52)).toEqual({
      x: 10,
      y: 50,
      row: 11,
      standsFor: "tenth",
      opens: OPENS,
    });
    expect(nearestDot([one], 18, 49)).toMatchObject({ x: 20, y: 50, row: 12 });
  });
  test("must be near", () => {
    expect(nearestDot([one], 30, 50)).toBeNull();
    expect(nearestDot([one], 29, 50)).toMatchObject({ row: 12 });
  });
  test("is the last drawn of those in one place", () => {
    expect(nearestDot([dotted(0, [1, 1], [5, 5], [1, 2])], 10, 50)).toMatchObject({ row: 2 });
  });
  test("may be in another track below", () => {
    const below = dotted(100, [1], [5], [21]);
    expect(nearestDot([one, below], 10, 150)).toMatchObject({ y: 150, row: 21 });
    expect(nearestDot([one, below], 10, 105)).toBeNull();
  });
  test("is none where dots open nothing", () => {
    const mark = { ...one.track.marks[0], opens: null };
    const plain = { ...one, track: { ...one.track, marks: [mark] } as unknown as Track };
    expect(nearestDot([plain], 10, 50)).toBeNull();
  });
});

import { describe, expect, test } from "vitest";
import { movedBefore, movedBy } from "./moved";

const ORDER = ["a", "b", "c", "d"];

describe("pieces of a report", () => {
  test("are moved to stand before another, or last", () => {
    expect(movedBefore(ORDER, "d", "b")).toEqual(["a", "d", "b", "c"]);
    expect(movedBefore(ORDER, "a", null)).toEqual(["b", "c", "d", "a"]);
    expect(movedBefore(ORDER, "a", "gone")).toEqual(ORDER);
  });
  test("pass their neighbour among those that are shown", () => {
    expect(movedBy(ORDER, ["a", "c", "d"], "c", -1)).toEqual(["c", "a", "b", "d"]);
    expect(movedBy(ORDER, ["a", "c", "d"], "a", 1)).toEqual(["b", "c", "a", "d"]);
    expect(movedBy(ORDER, ["a", "b", "c"], "c", 1)).toEqual(ORDER);
    expect(movedBy(ORDER, ["a"], "a", -1)).toEqual(ORDER);
  });
});

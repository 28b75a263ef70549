import { describe, expect, it } from "vitest";
import { fallingSteps, outline, stairs } from "./stairs";

/** The corners of a path of M, H and V. */
function corners(path: string): [number, number][] {
  const found: [number, number][] = [];
  let [x, y] = [0, 0];
  for (const [, letter, first, second] of path.matchAll(/([MHV])(-?[\d.]+)(?: (-?[\d.]+))?/g)) {
    if (letter === "M") [x, y] = [Number(first), Number(second)];
    if (letter === "H") x = Number(first);
    if (letter === "V") y = Number(first);
    found.push([x, y]);
  }
  return found;
}

describe("stairs", () => {
  it("steps up where a value is, and holds to the right edge", () => {
    expect(corners(stairs([10, 30], [80, 20], 100, 50))).toEqual([
      [10, 100],
      [10, 80],
      [30, 80],
      [30, 20],
      [50, 20],
    ]);
  });

  it("is nothing where nothing is known", () => {
    expect(stairs([], [], 100, 50)).toBe("");
  });
});

describe("outline", () => {
  it("goes round the bars and comes back to the floor", () => {
    const path = corners(outline([0, 10, 20], [40, 70], 90));
    expect(path[0]).toEqual([0, 90]);
    expect(path).toContainEqual([0, 40]);
    expect(path).toContainEqual([10, 40]);
    expect(path).toContainEqual([10, 70]);
    expect(path[path.length - 1]).toEqual([20, 90]);
  });

  it("is nothing where nothing is known", () => {
    expect(outline([0, 1], [], 90)).toBe("");
  });
});

describe("fallingSteps", () => {
  it("starts at the top left, falls at each time and ends at the right", () => {
    const path = corners(fallingSteps([0, 5, 10], [1, 0.5, 0.5], 10, 100, 64));
    expect(path[0]).toEqual([0, 4]);
    expect(path).toContainEqual([50, 4]);
    expect(path).toContainEqual([50, 34]);
    expect(path[path.length - 1]).toEqual([100, 34]);
  });

  it("never rises for heights that never do", () => {
    const heights = [1, 0.9, 0.4, 0.4, 0];
    const ys = corners(fallingSteps([0, 1, 2, 3, 4], heights, 4, 10, 10)).map(([, y]) => y);
    expect(ys).toEqual([...ys].sort((a, b) => a - b));
  });
});

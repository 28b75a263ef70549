import { expect, test } from "vitest";
import { fromPages, PAGE, withPages } from "./pages";

test("the pages in sight are added once", () => {
  const first = [0];
  expect(withPages(first, 3, 40)).toBe(first);
  expect(withPages(first, PAGE - 5, PAGE + 5)).toEqual([0, 1]);
  expect(withPages([0], 7 * PAGE, 7 * PAGE + 9)).toEqual([0, 7]);
});

test("rows stand in their places, and those not there yet are null", () => {
  const rows = fromPages(PAGE + 2, new Map([[1, ["a", "b", "too many"]]]));
  expect(rows.length).toBe(PAGE + 2);
  expect(rows[0]).toBeNull();
  expect(rows.slice(PAGE)).toEqual(["a", "b"]);
});

import { expect, test } from "vitest";
import { fromPages, PAGE, pageFor, withPages } from "./pages";

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

test("pages of very wide rows hold fewer of them", () => {
  expect([pageFor(5), pageFor(300), pageFor(3000), pageFor(5000)]).toEqual([PAGE, PAGE, 20, 20]);
  expect(withPages([0], 45, 61, pageFor(3000))).toEqual([0, 2, 3]);
  expect(fromPages(41, new Map([[2, ["last", "past the end"]]]), 20).slice(40)).toEqual(["last"]);
});

import { expect, test } from "vitest";
import { tied } from "./tied";

test.each([
  ["(0.51 to 0.84; p < 0.001), all", "(0.51 to 0.84; p\u00a0<\u00a00.001), all"],
  ["P = 0.02", "P\u00a0=\u00a00.02"],
  ["drop at x ≤ 5, stop = 3", "drop at x ≤ 5, stop =\u00a03"],
  ["where t < −2", "where t <\u00a0−2"],
])("“%s” keeps its comparisons on one line", (text, found) => {
  expect(tied(text)).toBe(found);
});

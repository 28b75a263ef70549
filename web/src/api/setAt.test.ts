import { expect, test } from "vitest";
import { setAt } from "./setAt";

const MODEL = {
  stage: "model",
  level: 0.95,
  terms: [
    { kind: "category", column: "g", reference: "a" },
    { kind: "number", column: "x", unit: 1 },
  ],
};

test("a field is set in a copy", () => {
  const changed = setAt(MODEL, "level", 0.9);
  expect(changed.level).toBe(0.9);
  expect(MODEL.level).toBe(0.95);
  expect(changed.terms).toBe(MODEL.terms);
});

test("a path reaches into lists", () => {
  const changed = setAt(MODEL, "terms.1.unit", 10);
  expect(changed.terms[1]).toEqual({ kind: "number", column: "x", unit: 10 });
  expect(changed.terms[0]).toBe(MODEL.terms[0]);
  expect(Array.isArray(changed.terms)).toBe(true);
});

test("a path makes what is not there", () => {
  expect(setAt({ clock: null }, "clock.start", "from")).toEqual({ clock: { start: "from" } });
});

test("an empty path sets several fields", () => {
  const changed = setAt({ outcome: "a", meanings: { 1: "event" }, unit: "days" }, "", {
    outcome: "b",
    meanings: {},
  });
  expect(changed).toEqual({ outcome: "b", meanings: {}, unit: "days" });
});

test("null is a value like any other", () => {
  expect(setAt({ late: "x" as string | null }, "late", null).late).toBeNull();
});

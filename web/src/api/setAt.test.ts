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
  const changed = setAt(MODEL, { field: "level", value: 0.9 });
  expect(changed.level).toBe(0.9);
  expect(MODEL.level).toBe(0.95);
  expect(changed.terms).toBe(MODEL.terms);
});

test("a path reaches into lists", () => {
  const changed = setAt(MODEL, { field: "terms.1.unit", value: 10 });
  expect(changed.terms[1]).toEqual({ kind: "number", column: "x", unit: 10 });
  expect(changed.terms[0]).toBe(MODEL.terms[0]);
  expect(Array.isArray(changed.terms)).toBe(true);
});

test("a path makes what is not there", () => {
  expect(setAt({ clock: null }, { field: "clock.start", value: "from" })).toEqual({
    clock: { start: "from" },
  });
});

test("an empty path sets several fields", () => {
  const changed = setAt(
    { outcome: "a", meanings: { 1: "event" }, unit: "days" },
    {
      field: "",
      value: {
        outcome: "b",
        meanings: {},
      },
    },
  );
  expect(changed).toEqual({ outcome: "b", meanings: {}, unit: "days" });
});

test("null is a value like any other", () => {
  expect(setAt({ late: "x" as string | null }, { field: "late", value: null }).late).toBeNull();
});

test("what is added twice at once is there twice, and once if it is the same", () => {
  const first = setAt(MODEL, {
    field: "terms",
    value: { kind: "number", column: "y" },
    adds: true,
  });
  const second = setAt(first, {
    field: "terms",
    value: { kind: "number", column: "z" },
    adds: true,
  });
  expect(second.terms.map((term) => term.column)).toEqual(["g", "x", "y", "z"]);
  const again = setAt(second, {
    field: "terms",
    value: { kind: "number", column: "z" },
    adds: true,
  });
  expect(again.terms).toHaveLength(4);
  const begun = setAt(
    { strata: null as string[] | null },
    { field: "strata", value: "g", adds: true },
  );
  expect(begun.strata).toEqual(["g"]);
});

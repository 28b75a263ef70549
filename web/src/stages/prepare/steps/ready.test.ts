import { describe, expect, it } from "vitest";
import type { Place, StepForm } from "../../../api/types";
import { partsOf, ready } from "./ready";

const place = (at: Place["at"], field: string, more: Partial<Place> = {}): Place => ({
  at,
  field,
  label: field,
  of: [],
  options: [],
  wide: false,
  optional: false,
  ...more,
});
const part = (one: string | Place, when: Record<string, string> = {}) =>
  typeof one === "string" ? { words: one, place: null, when } : { words: "", place: one, when };
const form = (...parts: StepForm["parts"]): StepForm => ({
  kind: "x",
  title: "X",
  about: "",
  start: { kind: "x" },
  parts,
});

describe("a step being written", () => {
  it("takes a condition once every clause has a column and what it is compared with", () => {
    const by = form(part(place("condition", "condition")));
    const clause = { column: "age", test: "over", values: ["60"], missing: false };
    const draft = (clauses: object[]) => ({ kind: "x", condition: { join: "and", clauses } });
    expect(ready(by, draft([clause]))).not.toBeNull();
    expect(ready(by, draft([clause, { ...clause, values: [] }]))).toBeNull();
    expect(ready(by, draft([{ ...clause, test: "is missing", values: [] }]))).not.toBeNull();
    expect(ready(by, draft([{ ...clause, test: "is", values: [] }]))).toBeNull();
    expect(ready(by, draft([{ ...clause, column: "" }]))).toBeNull();
  });

  it("asks only for the places that apply", () => {
    const split = form(
      part("Split "),
      part(place("points", "points"), { by: "points" }),
      part(place("number", "bands"), { by: "quantiles" }),
    );
    const at = (by: string, more = {}) => ({
      kind: "x",
      by,
      points: [],
      bands: Number.NaN,
      ...more,
    });
    expect(partsOf(split, at("median")).map((p) => p.words)).toEqual(["Split "]);
    expect(ready(split, at("points"))).toBeNull();
    expect(ready(split, at("points", { points: [60] }))).not.toBeNull();
    expect(ready(split, at("median"))).not.toBeNull();
    expect(ready(split, at("quantiles"))).toBeNull();
  });

  it("leaves blank what may be left blank, and takes a choice of nothing for a choice", () => {
    const name = place("text", "into");
    expect(ready(form(part(name)), { kind: "x", into: "" })).toBeNull();
    const optional = form(part({ ...name, optional: true }), part(place("choice", "mark")));
    expect(ready(optional, { kind: "x", into: "", mark: "" })).not.toBeNull();
    expect(ready(form(part(place("pairs", "groups"))), { kind: "x", groups: {} })).toBeNull();
  });
});

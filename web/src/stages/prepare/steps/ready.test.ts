import { describe, expect, it } from "vitest";
import { type Draft, KINDS } from "./kinds";
import { ready } from "./ready";

describe("ready", () => {
  it("takes no kind of step as it starts, for something is always left to say", () => {
    const unfinished = KINDS.filter((k) => ready(k.start) === null).map((k) => k.kind);
    expect(unfinished).toEqual(KINDS.map((k) => k.kind));
  });

  it("takes a condition once every clause has a column and what it is compared with", () => {
    const clause = { column: "age", test: "over", values: ["60"], missing: false };
    const draft = (clauses: object[]): Draft => ({
      kind: "set_aside_where",
      keep: false,
      condition: { join: "and", clauses },
    });
    expect(ready(draft([clause]))).not.toBeNull();
    expect(ready(draft([clause, { ...clause, values: [] }]))).toBeNull();
    expect(ready(draft([{ ...clause, test: "is missing", values: [] }]))).not.toBeNull();
    expect(ready(draft([{ ...clause, column: "" }]))).toBeNull();
  });

  it("asks for points only where a number is split at points", () => {
    const split: Draft = {
      kind: "split_number",
      column: "age",
      by: "points",
      points: [],
      into: "",
    };
    expect(ready(split)).toBeNull();
    expect(ready({ ...split, points: [60] })).not.toBeNull();
    expect(ready({ ...split, by: "median" })).not.toBeNull();
    expect(ready({ ...split, by: "quantiles", bands: Number.NaN })).toBeNull();
  });

  it("needs a name where a column is made from two dates", () => {
    const between: Draft = { kind: "time_between", start: "a", end: "b", unit: "years", into: "" };
    expect(ready(between)).toBeNull();
    expect(ready({ ...between, into: "age" })).not.toBeNull();
  });
});

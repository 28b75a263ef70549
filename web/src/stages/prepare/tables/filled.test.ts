import { expect, test } from "vitest";
import type { CovariateField, CovariateForm } from "../../../api/types";
import { covariateOf, missingOf } from "./filled";

const FIELDS = [
  { field: "column", label: "Column", takes: "column", choices: {} },
  { field: "limit", label: "Never older than", takes: "length", choices: {} },
  { field: "cuts", label: "Bands at", takes: "lengths", choices: {} },
  { field: "after_entry", label: "Only after entry", takes: "yes", choices: {} },
] as CovariateField[];
const form = (fields: string[], needed: string[]) =>
  ({ kind: "k", label: "", explains: "", role: "dated records", fields, needed }) as CovariateForm;

test("a field that is needed, or holds no length, is still to be given", () => {
  const of = form(["column", "limit", "cuts"], ["column", "cuts"]);
  expect(missingOf(of, {}, FIELDS)).toBe("Column, Bands at");
  expect(missingOf(of, { column: "a", cuts: "1 x", limit: "-2" }, FIELDS)).toBe(
    "Never older than, Bands at",
  );
  expect(missingOf(of, { column: "a", cuts: "1 2.5", after_entry: "" }, FIELDS)).toBe("");
});

test("a covariate has the fields of its kind alone, as numbers where they are", () => {
  const of = form(["column", "limit", "cuts", "after_entry"], []);
  const filled = { column: "a", limit: "90", cuts: "1; 2.5", after_entry: "yes" };
  expect(covariateOf(of, filled, FIELDS, "x", null)).toEqual({
    kind: "k",
    into: "x",
    condition: null,
    column: "a",
    limit: 90,
    cuts: [1, 2.5],
    after_entry: true,
  });
  expect(covariateOf(form(["column"], []), filled, FIELDS, "x", null)).not.toHaveProperty("limit");
});

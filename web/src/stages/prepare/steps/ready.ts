import type { Place, StepBody, StepForm } from "../../../api/types";

/** A step being written: its fields, not all of them filled yet. */
export type Draft = { kind: string } & Record<string, unknown>;

/** The words and places of a step's sentence, as far as they apply to what is written so far. */
export function partsOf(form: StepForm, draft: Draft) {
  return form.parts.filter((part) =>
    Object.entries(part.when).every(([field, value]) => draft[field] === value),
  );
}

/** A draft with every place filled that must be, as the server takes it; null while one is not. */
export function ready(form: StepForm, draft: Draft): StepBody | null {
  const places = partsOf(form, draft).flatMap((part) => part.place ?? []);
  return places.every((place) => filled(place, draft[place.field]))
    ? (draft as unknown as StepBody)
    : null;
}

/** The tests of a condition that compare with nothing. */
const ALONE = new Set(["is missing", "is present"]);

function filled(place: Place, value: unknown): boolean {
  if (place.optional || place.at === "choice") return true;
  if (place.at === "condition") {
    const { clauses } = value as { clauses: { column: string; test: string; values: string[] }[] };
    return clauses.every((c) => c.column !== "" && (ALONE.has(c.test) || c.values.length > 0));
  }
  if (Array.isArray(value)) return value.length > 0;
  if (typeof value === "object" && value !== null) return Object.keys(value).length > 0;
  return value !== "" && value !== undefined && !Number.isNaN(value);
}

import type { ConditionField } from "../steps/ConditionField";

export type Condition = Parameters<typeof ConditionField>[0]["value"];

/** A condition that nobody has stated yet. */
export const NO_CLAUSES: Condition = {
  join: "and",
  clauses: [{ column: "", test: "is", values: [], missing: false }],
};

export interface Clause {
  column: string;
  test: string;
  values: string[];
  missing: boolean;
}

export interface Condition {
  join: "and" | "or";
  clauses: Clause[];
}

/** A clause, and a condition, that nobody has stated yet. */
export const NO_CLAUSE: Clause = { column: "", test: "is", values: [], missing: false };
export const NO_CONDITION: Condition = { join: "and", clauses: [NO_CLAUSE] };

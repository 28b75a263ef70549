import type { StepBody } from "../../../api/types";
import { type Draft, type Field, kindOf } from "./kinds";

/** A draft with every place filled that must be, as the server takes it; null while one is not. */
export function ready(draft: Draft): StepBody | null {
  const kind = kindOf(draft.kind);
  if (!kind) return null;
  for (const part of kind.parts(draft)) {
    if (typeof part === "string") continue;
    if (!filled(part, draft[part.field])) return null;
  }
  return draft as unknown as StepBody;
}

const MAY_BE_BLANK = new Set(["into", "label", "unit", "reference", "order", "value"]);

function filled(part: Field, value: unknown): boolean {
  const needed = "needed" in part && part.needed;
  if (MAY_BE_BLANK.has(part.field) && !needed) return true;
  if (part.at === "condition") {
    const { clauses } = value as { clauses: { column: string; test: string; values: string[] }[] };
    return clauses.every(
      (c) =>
        c.column !== "" &&
        (c.test.startsWith("is ") && c.test !== "is not" ? true : c.values.length > 0),
    );
  }
  if (Array.isArray(value)) return value.length > 0;
  if (typeof value === "object" && value !== null) return Object.keys(value).length > 0;
  return value !== "" && value !== undefined && !Number.isNaN(value);
}

import type { Covariate, CovariateField, CovariateForm } from "../../../api/types";

/** What has been typed or chosen for each field, as text. */
export type Filled = Readonly<Record<string, string>>;

const lengths = (text: string) =>
  text
    .split(/[\s;]+/)
    .filter(Boolean)
    .map(Number);
const isLength = (value: number) => Number.isFinite(value) && value > 0;

/** The fields that are still to be filled, or hold no lengths; blank where there are none. */
export function missingOf(
  form: CovariateForm,
  filled: Filled,
  fields: readonly CovariateField[],
): string {
  return fields
    .filter((one) => form.fields.includes(one.field) && !isFilled(one, form, filled))
    .map((one) => one.label)
    .join(", ");
}

function isFilled(one: CovariateField, form: CovariateForm, filled: Filled): boolean {
  const text = filled[one.field] ?? "";
  if (!text) return !form.needed.includes(one.field);
  if (one.takes === "length") return isLength(Number(text));
  return one.takes !== "lengths" || lengths(text).every(isLength);
}

/** The covariate that the fields state. */
export function covariateOf(
  form: CovariateForm,
  filled: Filled,
  fields: readonly CovariateField[],
  into: string,
  condition: unknown,
): Covariate {
  const values = fields
    .filter((one) => form.fields.includes(one.field) && filled[one.field])
    .map((one) => [one.field, typed(one, filled[one.field] as string)]);
  return { kind: form.kind, into, condition, ...Object.fromEntries(values) } as Covariate;
}

function typed(one: CovariateField, text: string) {
  if (one.takes === "length") return Number(text);
  if (one.takes === "lengths") return lengths(text);
  return one.takes === "yes" ? true : text;
}

import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type {
  ColumnView,
  Covariate,
  CovariateField,
  CovariateForm,
  CovariateForms,
  RecordTable,
} from "../../../api/types";
import { ColumnField } from "../steps/ColumnField";
import { ConditionField } from "../steps/ConditionField";
import { type Condition, NO_CONDITION } from "../steps/condition";
import { covariateOf, type Filled, missingOf } from "./filled";

interface Props {
  role: RecordTable["role"];
  columns: readonly ColumnView[];
  forms: CovariateForms;
  lengthsIn: string;
  onAdd: (made: Covariate) => void;
  onCancel: () => void;
}

/** A covariate stated by hand: its kind, its fields, which rows count, and its name. */
export function CovariateEditor({ role, columns, forms, lengthsIn, onAdd, onCancel }: Props) {
  const kinds = forms.kinds.filter((form) => form.role === role);
  const [kind, setKind] = useState(kinds[0]?.kind ?? "");
  const [filled, setFilled] = useState<Filled>({});
  const [into, setInto] = useState("");
  const [condition, setCondition] = useState<Condition | null>(null);
  const form = kinds.find((one) => one.kind === kind);
  if (!form) return null;
  const name = into || suggested(form, filled);
  const missing = missingOf(form, filled, forms.fields);
  return (
    <div className="covariate-editor" role="group" aria-label="A covariate">
      <TextField
        select
        size="small"
        label="Covariate"
        value={kind}
        helperText={form.explains}
        onChange={(event) => setKind(event.target.value)}
      >
        {kinds.map((one) => (
          <MenuItem key={one.kind} value={one.kind}>
            {one.label}
          </MenuItem>
        ))}
      </TextField>
      <div className="covariate-fields">
        {form.fields.map((field) => (
          <Field
            key={field}
            of={forms.fields.find((one) => one.field === field)}
            columns={form.of_numbers ? columns.filter((c) => c.kind === "number") : columns}
            lengthsIn={field === "cuts" && form.of_numbers ? `value × ${lengthsIn}` : lengthsIn}
            value={filled[field] ?? ""}
            onChange={(value) => setFilled({ ...filled, [field]: value })}
          />
        ))}
        <TextField
          size="small"
          label="Name of the covariate"
          value={name}
          onChange={(event) => setInto(event.target.value)}
        />
      </div>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={condition !== null}
            onChange={(event) => setCondition(event.target.checked ? NO_CONDITION : null)}
          />
        }
        label="Only rows that fulfil a condition"
      />
      {condition ? (
        <ConditionField value={condition} columns={columns} onChange={setCondition} />
      ) : null}
      {missing ? <p className="quiet">Still to be given: {missing}.</p> : null}
      <div>
        <Button
          variant="contained"
          disabled={Boolean(missing) || !name}
          onClick={() => onAdd(covariateOf(form, filled, forms.fields, name, condition))}
        >
          Add {name || "the covariate"}
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </div>
    </div>
  );
}

function suggested(form: CovariateForm, filled: Filled): string {
  const { column } = filled;
  if (form.suggests.includes("{column}") && !column) return "";
  return form.suggests.replace("{column}", column ?? "");
}

interface FieldProps {
  of: CovariateField | undefined;
  columns: readonly ColumnView[];
  lengthsIn: string;
  value: string;
  onChange: (value: string) => void;
}

function Field({ of, columns, lengthsIn, value, onChange }: FieldProps) {
  if (!of) return null;
  switch (of.takes) {
    case "column":
      return <ColumnField label={of.label} columns={columns} value={value} onChange={onChange} />;
    case "yes":
      return (
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={value === "yes"}
              onChange={(event) => onChange(event.target.checked ? "yes" : "")}
            />
          }
          label={of.label}
        />
      );
    case "choice":
      return (
        <TextField
          select
          size="small"
          label={of.label}
          value={value || (Object.keys(of.choices)[0] ?? "")}
          onChange={(event) => onChange(event.target.value)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          {Object.entries(of.choices).map(([choice, words]) => (
            <MenuItem key={choice} value={choice}>
              {words}
            </MenuItem>
          ))}
        </TextField>
      );
    default:
      return (
        <TextField
          size="small"
          label={`${of.label} (${lengthsIn})`}
          placeholder={of.takes === "lengths" ? "such as 30 90 180" : ""}
          sx={{ width: 250 }}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      );
  }
}

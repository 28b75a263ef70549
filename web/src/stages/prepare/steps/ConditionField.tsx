import Autocomplete from "@mui/material/Autocomplete";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { ColumnView } from "../../../api/types";
import { ColumnField } from "./ColumnField";
import { type Clause, type Condition, NO_CLAUSE } from "./condition";
import "./ConditionField.css";

const TESTS: Record<string, readonly (readonly [string, string])[]> = {
  text: [
    ["is", "is"],
    ["is not", "is not"],
    ["contains", "contains"],
  ],
  ordered: [
    ["is", "is"],
    ["is not", "is not"],
    ["under", "is under"],
    ["at most", "is at most"],
    ["at least", "is at least"],
    ["over", "is over"],
  ],
};
const ALWAYS = [
  ["is missing", "is missing"],
  ["is present", "is present"],
] as const;

/** Clauses on columns, joined by "and" or "or"; what is missing is stated, never assumed. */
export function ConditionField({
  value,
  columns,
  onChange,
}: {
  value: Condition;
  columns: readonly ColumnView[];
  onChange: (value: Condition) => void;
}) {
  const change = (k: number, part: Partial<Clause>) =>
    onChange({
      ...value,
      clauses: value.clauses.map((c, at) => (at === k ? { ...c, ...part } : c)),
    });
  return (
    <div className="clauses">
      {value.clauses.map((clause, k) => (
        <div key={k} className="clause" role="group" aria-label={`Clause ${k + 1}`}>
          {k > 0 ? (
            <TextField
              select
              label="Joined by"
              value={value.join}
              onChange={(event) => onChange({ ...value, join: event.target.value as "and" | "or" })}
            >
              <MenuItem value="and">and</MenuItem>
              <MenuItem value="or">or</MenuItem>
            </TextField>
          ) : null}
          <ColumnField
            label="Column"
            columns={columns}
            value={clause.column}
            onChange={(name) => change(k, { column: name, test: "is", values: [] })}
          />
          <ClauseTest
            clause={clause}
            column={columns.find((c) => c.name === clause.column)}
            onChange={(part) => change(k, part)}
          />
          {value.clauses.length > 1 ? (
            <Button
              aria-label={`Remove clause ${k + 1}`}
              onClick={() =>
                onChange({ ...value, clauses: value.clauses.filter((_, at) => at !== k) })
              }
            >
              Remove
            </Button>
          ) : null}
        </div>
      ))}
      <Button onClick={() => onChange({ ...value, clauses: [...value.clauses, NO_CLAUSE] })}>
        Add clause
      </Button>
    </div>
  );
}

interface ClauseProps {
  clause: Clause;
  column: ColumnView | undefined;
  onChange: (part: Partial<Clause>) => void;
}

/** Values of which one is enough. */
function SeveralValues({ clause, column, onChange }: ClauseProps) {
  const levels = column?.kind === "text" ? column.levels.map((l) => l.level) : [];
  return (
    <Autocomplete
      multiple
      freeSolo
      autoSelect
      clearOnBlur
      size="small"
      options={levels}
      value={clause.values}
      onChange={(_, values) => onChange({ values })}
      renderInput={(params) => (
        <TextField {...params} label={column?.kind === "date" ? "Dates (2021-04-30)" : "Values"} />
      )}
      sx={{ display: "inline-flex", minWidth: 200 }}
    />
  );
}

function ClauseTest({ clause, column, onChange }: ClauseProps) {
  const tests = [...(TESTS[column?.kind === "text" ? "text" : "ordered"] ?? []), ...ALWAYS];
  const compares = !ALWAYS.some(([test]) => test === clause.test);
  const several = clause.test === "is" || clause.test === "is not" || clause.test === "contains";
  return (
    <>
      <TextField
        select
        label="Test"
        value={clause.test}
        onChange={(event) => onChange({ test: event.target.value })}
      >
        {tests.map(([test, words]) => (
          <MenuItem key={test} value={test}>
            {words}
          </MenuItem>
        ))}
      </TextField>
      {compares && several ? (
        <SeveralValues clause={clause} column={column} onChange={onChange} />
      ) : null}
      {compares && !several ? (
        <TextField
          label={column?.kind === "date" ? "Date (2021-04-30)" : "Value"}
          value={clause.values[0] ?? ""}
          onChange={(event) => onChange({ values: event.target.value ? [event.target.value] : [] })}
          sx={{ width: 150 }}
        />
      ) : null}
      {compares && column?.missing ? (
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={clause.missing}
              onChange={(event) => onChange({ missing: event.target.checked })}
            />
          }
          label={`also where it is missing (${column.missing})`}
        />
      ) : null}
    </>
  );
}

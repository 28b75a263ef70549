import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { CovariateForms, FurtherTable, RecordTable, StepBody } from "../../../api/types";
import { grouped } from "../../../numbers/format";
import { ColumnField } from "../steps/ColumnField";
import { CovariateEditor } from "./CovariateEditor";
import { OutcomeEditor } from "./OutcomeEditor";

interface Props {
  table: FurtherTable;
  forms: CovariateForms;
  lengthsIn: string;
  busy: boolean;
  onPut: (stated: RecordTable) => void;
  onSteps: (steps: StepBody[]) => void;
  onRemove: () => void;
}

/** Whose the rows of a table are, when they were, and what is made of them. */
export function TableStatement({ table, forms, lengthsIn, busy, onPut, onSteps, onRemove }: Props) {
  const { stated, columns } = table;
  const [adding, setAdding] = useState<"covariate" | "outcome" | null>(null);
  const put = (part: Partial<RecordTable>) => onPut({ ...stated, ...part });
  const named = (field: "key" | "at" | "until", label: string) => (
    <ColumnField
      label={label}
      columns={columns}
      value={stated[field] ?? ""}
      onChange={(name) => put({ [field]: name || null })}
    />
  );
  const periods = stated.role === "periods";
  return (
    <section className="further-table" aria-label={`Table ${table.name}`}>
      <header>
        <h3>{table.name}</h3>
        <span className="quiet">
          {table.file ? `${table.file} · ${grouped(table.rows)} rows` : "its file is not there yet"}
        </span>
        <Button disabled={busy} onClick={onRemove}>
          Remove the table
        </Button>
      </header>
      <div className="table-slots">
        <TextField
          select
          size="small"
          label="Each row is"
          value={stated.role}
          onChange={(event) => put({ role: event.target.value as RecordTable["role"] })}
        >
          <MenuItem value="dated records">a dated record</MenuItem>
          <MenuItem value="periods">a period</MenuItem>
        </TextField>
        {named("key", "Key of the subject")}
        {named("at", periods ? "From" : "Date or time")}
        {periods ? named("until", "To (blank: still open)") : null}
      </div>
      {table.steps.length ? (
        <ul className="made-of-table" aria-label={`Steps of ${table.name}`}>
          {table.step_names.map((name, k) => (
            <li key={name}>
              <span>{name}</span>
              <Button
                disabled={busy}
                aria-label={`Undo “${name}”`}
                onClick={() => onSteps(table.steps.filter((_, at) => at !== k) as StepBody[])}
              >
                Remove
              </Button>
            </li>
          ))}
        </ul>
      ) : null}
      <ul className="made-of-table" aria-label={`Made of ${table.name}`}>
        {stated.covariates.map((one) => (
          <li key={one.into}>
            <span>
              <b>{one.into}</b>{" "}
              <span className="quiet">
                {forms.kinds.find((form) => form.kind === one.kind)?.label}
                {"column" in one && one.column ? ` of ${one.column}` : ""}
              </span>
            </span>
            <Button
              disabled={busy}
              aria-label={`Remove ${one.into}`}
              onClick={() => put({ covariates: stated.covariates.filter((c) => c !== one) })}
            >
              Remove
            </Button>
          </li>
        ))}
      </ul>
      {stated.outcomes.length ? (
        <ul className="made-of-table" aria-label={`Outcomes of ${table.name}`}>
          {stated.outcomes.map((one) => (
            <li key={one.name}>
              <span>
                <b>{one.name}</b>{" "}
                <span className="quiet">
                  {one.meaning === "event" ? "the event" : "a competing event"}, at the first record
                </span>
              </span>
              <Button
                disabled={busy}
                aria-label={`Remove ${one.name}`}
                onClick={() => put({ outcomes: stated.outcomes.filter((o) => o !== one) })}
              >
                Remove
              </Button>
            </li>
          ))}
        </ul>
      ) : null}
      {adding === "outcome" ? (
        <OutcomeEditor
          columns={columns}
          onAdd={(made) => {
            put({ outcomes: [...stated.outcomes, made] });
            setAdding(null);
          }}
          onCancel={() => setAdding(null)}
        />
      ) : adding === "covariate" ? (
        <CovariateEditor
          role={stated.role}
          columns={columns}
          forms={forms}
          lengthsIn={lengthsIn}
          onAdd={(made) => {
            put({ covariates: [...stated.covariates, made] });
            setAdding(null);
          }}
          onCancel={() => setAdding(null)}
        />
      ) : (
        <>
          <Button disabled={busy || !table.file} onClick={() => setAdding("covariate")}>
            Add a covariate
          </Button>
          {periods ? null : (
            <Button disabled={busy || !table.file} onClick={() => setAdding("outcome")}>
              Add an outcome
            </Button>
          )}
        </>
      )}
    </section>
  );
}

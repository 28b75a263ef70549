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
      <StatedList
        label={`Steps of ${table.name}`}
        busy={busy}
        items={table.step_names.map((name) => ({ name, about: "" }))}
        onRemove={(k) => onSteps(without(table.steps as StepBody[], k))}
      />
      <StatedList
        label={`Made of ${table.name}`}
        busy={busy}
        items={stated.covariates.map((one) => ({
          name: one.into,
          about: `${forms.kinds.find((form) => form.kind === one.kind)?.label}${
            "column" in one && one.column ? ` of ${one.column}` : ""
          }`,
        }))}
        onRemove={(k) => put({ covariates: without(stated.covariates, k) })}
      />
      <StatedList
        label={`Outcomes of ${table.name}`}
        busy={busy}
        items={stated.outcomes.map((one) => ({
          name: one.name,
          about: `${one.meaning === "event" ? "the event" : "a competing event"}, at the first record`,
        }))}
        onRemove={(k) => put({ outcomes: without(stated.outcomes, k) })}
      />
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

const without = <T,>(all: readonly T[], place: number) => all.filter((_, at) => at !== place);

interface StatedListProps {
  label: string;
  busy: boolean;
  items: readonly { name: string; about: string }[];
  onRemove: (place: number) => void;
}

/** What is stated of a table, one under the other, each with a way to remove it. */
function StatedList({ label, busy, items, onRemove }: StatedListProps) {
  if (items.length === 0) return null;
  return (
    <ul className="made-of-table" aria-label={label}>
      {items.map(({ name, about }, k) => (
        <li key={name}>
          <span>
            {about ? <b>{name}</b> : name} <span className="quiet">{about}</span>
          </span>
          <Button disabled={busy} aria-label={`Remove ${name}`} onClick={() => onRemove(k)}>
            Remove
          </Button>
        </li>
      ))}
    </ul>
  );
}

import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { useId, useState } from "react";
import { usePutTable, useRemoveTable, useSetTableSteps } from "../../../api/changes";
import { useCovariateForms, useTables } from "../../../api/queries";
import type { StepBody, Tables as TablesData } from "../../../api/types";
import { Refused } from "../../../frame/ReasonField";
import { Working } from "../../../frame/StagePage";
import { grouped } from "../../../numbers/format";
import { Numbers } from "../../../readings/Readings";
import { SendFile } from "../SendFile";
import { useSending } from "../useSending";
import { TableStatement } from "./TableStatement";
import "./Tables.css";

/** The further tables of a study: dated records and periods of its subjects, and what is made of them. */
export function Tables({ study, onClose }: { study: string; onClose: () => void }) {
  const tables = useTables(study);
  const forms = useCovariateForms().data;
  const put = usePutTable(study);
  const remove = useRemoveTable(study);
  const steps = useSetTableSteps(study);
  const data = tables.data;
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="tables-title">
      <DialogTitle id="tables-title">Further tables</DialogTitle>
      <DialogContent>
        {data?.blocked.map((block) => (
          <Block
            key={block.sentence}
            block={block}
            busy={steps.isPending}
            onAside={(step) =>
              steps.mutate({
                table: block.table,
                steps: [
                  ...(data.tables.find((one) => one.name === block.table)?.steps ?? []),
                  step,
                ],
              })
            }
          />
        ))}
        {data && forms
          ? data.tables.map((table) => (
              <TableStatement
                key={table.name}
                table={table}
                forms={forms}
                lengthsIn={data.lengths_in}
                busy={put.isPending || remove.isPending || steps.isPending}
                onSteps={(kept) => steps.mutate({ table: table.name, steps: kept })}
                onPut={(stated) => put.mutate(stated)}
                onRemove={() => remove.mutate(table.name)}
              />
            ))
          : null}
        {data?.counts.length ? <Counts data={data} /> : null}
        {data?.work ? <Working work={data.work} /> : null}
        <Refused error={tables.error ?? put.error ?? remove.error ?? steps.error} />
        {data ? <AddTable study={study} taken={data.tables.map((one) => one.name)} /> : null}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

/** What must be decided, with the step that sets its rows aside. */
function Block({
  block,
  busy,
  onAside,
}: {
  block: TablesData["blocked"][number];
  busy: boolean;
  onAside: (step: StepBody) => void;
}) {
  const { aside } = block;
  return (
    <div className="table-block" role="alert">
      <p className="block-line">{block.sentence}</p>
      {aside ? (
        <Button disabled={busy} onClick={() => onAside(aside as StepBody)}>
          Set {aside.rows.length === 1 ? "this row" : "these rows"} aside
        </Button>
      ) : null}
    </div>
  );
}

/** What became of the rows of each table. */
function Counts({ data }: { data: TablesData }) {
  return (
    <>
      <Numbers
        label="What became of the rows of each table"
        head={[
          "",
          "rows",
          "up to entry",
          "during follow-up",
          "at or after its end",
          "not followed",
        ]}
        rows={data.counts.map((one) => [
          one.name,
          ...[one.rows, one.before, one.during, one.late, one.not_followed].map(grouped),
        ])}
      />
      {data.prevalent ? (
        <p className="quiet">
          {data.prevalent} subjects had a record of the event at or before entry.
        </p>
      ) : null}
      {data.in_gap ? (
        <p className="quiet">
          The first record of the event of {data.in_gap} subjects lies in a gap of their follow-up,
          which ends there without an event.
        </p>
      ) : null}
      {data.counts
        .filter((one) => one.without)
        .map((one) => (
          <p key={one.name} className="quiet">
            {one.without} subjects have no row in {one.name}.
          </p>
        ))}
    </>
  );
}

function AddTable({ study, taken }: { study: string; taken: readonly string[] }) {
  const [name, setName] = useState("");
  const again = taken.includes(name.trim());
  const where = `tables/${encodeURIComponent(name.trim())}/file`;
  const sending = useSending(study, where, () => setName(""));
  const about = useId();
  return (
    <section className="add-table" aria-label="Add a table">
      <h3>Add a table</h3>
      <p className="quiet" id={about}>
        A table of visits, measurements or treatments has many rows for each subject, each with its
        key and a date, or with a start and an end. It makes time-varying covariates. It never moves
        a follow-up time, unless its records are stated to be an outcome.
      </p>
      <div className="add-table-fields">
        <TextField
          size="small"
          label="Name of the table"
          value={name}
          onChange={(event) => setName(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 80, "aria-describedby": about } }}
        />
        {name.trim() ? (
          <SendFile
            sending={sending}
            words={again ? `Choose a new data extract of ${name.trim()}` : "Choose its file"}
          />
        ) : null}
      </div>
    </section>
  );
}

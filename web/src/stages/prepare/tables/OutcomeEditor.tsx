import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { ColumnView, LoggedOutcome } from "../../../api/types";
import { ConditionField } from "../steps/ConditionField";
import { type Condition, NO_CONDITION } from "../steps/condition";

interface Props {
  columns: readonly ColumnView[];
  onAdd: (made: LoggedOutcome) => void;
  onCancel: () => void;
}

/** An outcome from a log: which of its records end follow-up, and with what. */
export function OutcomeEditor({ columns, onAdd, onCancel }: Props) {
  const [name, setName] = useState("");
  const [meaning, setMeaning] = useState<LoggedOutcome["meaning"]>("event");
  const [condition, setCondition] = useState<Condition>(NO_CONDITION);
  const ready = name.trim() !== "" && condition.clauses.every((clause) => clause.column);
  return (
    <div className="covariate-editor" role="group" aria-label="An outcome">
      <p className="quiet">
        Follow-up ends at the first such record after entry; a record at the end itself counts.
      </p>
      <div className="covariate-fields">
        <TextField
          size="small"
          label="Name of the outcome"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <TextField
          select
          size="small"
          label="It is"
          value={meaning}
          onChange={(event) => setMeaning(event.target.value as LoggedOutcome["meaning"])}
        >
          <MenuItem value="event">the event</MenuItem>
          <MenuItem value="competing">a competing event</MenuItem>
        </TextField>
      </div>
      <ConditionField value={condition} columns={columns} onChange={setCondition} />
      <div>
        <Button
          variant="contained"
          disabled={!ready}
          onClick={() => onAdd({ name: name.trim(), meaning, condition } as LoggedOutcome)}
        >
          Add {name.trim() || "the outcome"}
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </div>
    </div>
  );
}

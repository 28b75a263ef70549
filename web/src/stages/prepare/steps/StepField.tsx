import Autocomplete from "@mui/material/Autocomplete";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { ColumnView, Place } from "../../../api/types";
import { ColumnField } from "./ColumnField";
import { ConditionField } from "./ConditionField";
import { FormulaField, LevelNames, LevelOrder, Pairs } from "./mappings";
import type { Draft } from "./ready";

interface Props {
  place: Place;
  draft: Draft;
  columns: readonly ColumnView[];
  /** What is wrong with it, from the preview. */
  broken: string;
  onChange: (value: unknown) => void;
}

/** A place in a step's sentence, to be filled. */
export function StepField({ place, draft, columns, broken, onChange }: Props) {
  const value = draft[place.field];
  const own = columns.find((c) => c.name === draft.column);
  switch (place.at) {
    case "column":
      return (
        <ColumnField
          label={place.label}
          columns={columns.filter((c) => !place.of.length || place.of.includes(c.kind))}
          value={String(value ?? "")}
          onChange={onChange}
        />
      );
    case "columns":
      return (
        <Autocomplete
          multiple
          size="small"
          options={columns.map((c) => c.name)}
          value={value as string[]}
          onChange={(_, chosen) => onChange(chosen)}
          renderInput={(params) => <TextField {...params} label={place.label} />}
          sx={{ display: "inline-flex", minWidth: 260 }}
        />
      );
    case "choice":
      return (
        <Choice label={place.label} options={place.options} value={value} onChange={onChange} />
      );
    case "condition":
      return <ConditionField value={value as never} columns={columns} onChange={onChange} />;
    case "levels":
      return <LevelNames column={own} value={value as never} onChange={onChange} />;
    case "order":
      return <LevelOrder column={own} value={value as never} onChange={onChange} />;
    case "level":
      return (
        <Autocomplete
          size="small"
          options={(own?.levels ?? []).map((l) => l.level)}
          value={(value as string) || null}
          onChange={(_, chosen) => onChange(chosen ?? "")}
          renderInput={(params) => <TextField {...params} label={place.label} />}
          sx={{ display: "inline-flex", minWidth: 190 }}
        />
      );
    case "formula":
      return (
        <FormulaField value={String(value)} columns={columns} broken={broken} onChange={onChange} />
      );
    case "pairs":
      return (
        <Pairs label={place.label} columns={columns} value={value as never} onChange={onChange} />
      );
    default:
      return <FrozenModel place={place} value={value} onChange={onChange} />;
  }
}

interface ChoiceProps {
  label: string;
  options: Place["options"];
  value: unknown;
  onChange: (value: unknown) => void;
}

/** One of a few values, by their words. */
function Choice({ label, options, value, onChange }: ChoiceProps) {
  return (
    <TextField
      select
      label={label}
      value={String(value)}
      onChange={(event) =>
        onChange(options.find((o) => String(o.value) === event.target.value)?.value)
      }
    >
      {options.map((option) => (
        <MenuItem key={String(option.value)} value={String(option.value)}>
          {option.words}
        </MenuItem>
      ))}
    </TextField>
  );
}

const READ: Record<string, (text: string) => unknown> = {
  text: (text) => text,
  number: (text) => (text.trim() === "" ? Number.NaN : Number(text.replace(",", "."))),
  points: (text) =>
    text
      .split(/[\s;,]+/)
      .filter(Boolean)
      .map(Number)
      .filter((n) => Number.isFinite(n)),
  words: (text) =>
    text
      .split(",")
      .map((word) => word.trim())
      .filter(Boolean),
};

function FrozenModel({
  place,
  value,
  onChange,
}: {
  place: Place;
  value: unknown;
  onChange: (value: unknown) => void;
}) {
  const shown = Array.isArray(value) ? value.join(", ") : String(value ?? "");
  const [text, setText] = useState(shown);
  return (
    <TextField
      label={place.label}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        onChange(READ[place.at]?.(event.target.value));
      }}
      sx={{ width: place.wide ? 320 : place.at === "number" ? 110 : 210 }}
    />
  );
}

import Autocomplete from "@mui/material/Autocomplete";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { ColumnView } from "../../../api/types";

/** Takes one column after the other: what was chosen leaves the field empty for the next. */
export function ColumnAdder({
  label,
  columns,
  onAdd,
}: {
  label: string;
  columns: readonly ColumnView[];
  onAdd: (name: string) => void;
}) {
  const [typed, setTyped] = useState("");
  return (
    <Autocomplete
      size="small"
      options={columns.map((c) => c.name)}
      value={null}
      inputValue={typed}
      onInputChange={(_, words, reason) => setTyped(reason === "input" ? words : "")}
      onChange={(_, chosen) => chosen && onAdd(chosen)}
      renderInput={(params) => <TextField {...params} label={label} />}
      sx={{ display: "inline-flex", minWidth: 190 }}
    />
  );
}

import Autocomplete from "@mui/material/Autocomplete";
import TextField from "@mui/material/TextField";
import type { ColumnView } from "../../../api/types";

/** A column chosen by name, with search. */
export function ColumnField({
  label,
  columns,
  value,
  onChange,
}: {
  label: string;
  columns: readonly ColumnView[];
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <Autocomplete
      size="small"
      options={columns.map((c) => c.name)}
      value={value || null}
      onChange={(_, chosen) => onChange(chosen ?? "")}
      renderInput={(params) => <TextField {...params} label={label} />}
      sx={{ display: "inline-flex", minWidth: 190 }}
    />
  );
}

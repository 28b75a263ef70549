import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { CodeRow } from "../api/types";
import { grouped } from "../numbers/format";
import "./CodesEditor.css";

const MEANINGS = [
  ["event", "the event"],
  ["censored", "censored, no event seen"],
  ["competing", "a competing event"],
  ["set aside", "set aside: not analysed"],
] as const;

/** Every code of the outcome with its count; each must be given a meaning, none is assumed. */
export function CodesEditor({
  codes,
  onSet,
}: {
  codes: readonly CodeRow[];
  onSet: (meanings: Record<string, { meaning: string; name: string }>) => void;
}) {
  const [rows, setRows] = useState(codes);
  const proposed = rows.filter((row) => row.meaning === null && row.proposed);
  const change = (code: string, part: Partial<CodeRow>) =>
    setRows(rows.map((row) => (row.code === code ? { ...row, ...part } : row)));
  const total = rows.reduce((sum, row) => sum + row.count, 0);
  const events = rows.filter((r) => r.meaning === "event").reduce((sum, r) => sum + r.count, 0);
  const unknown = rows.filter((row) => row.meaning === null).map((row) => row.code || "blank");
  const given = rows.filter((row) => row.meaning !== null);
  return (
    <div className="codes">
      <table>
        <thead>
          <tr>
            <th scope="col">code</th>
            <th scope="col">rows</th>
            <th scope="col">means</th>
            <th scope="col">called</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => {
            const shown = row.code || "blank";
            return (
              <tr key={row.code}>
                <th scope="row">
                  {shown}
                  {row.spellings.length ? (
                    <span className="quiet folded">
                      also written {row.spellings.map((s) => `“${s}”`).join(", ")}
                    </span>
                  ) : null}
                </th>
                <td>{grouped(row.count)}</td>
                <td>
                  <TextField
                    select
                    value={row.meaning ?? ""}
                    onChange={(event) =>
                      change(row.code, { meaning: event.target.value as CodeRow["meaning"] })
                    }
                    slotProps={{
                      htmlInput: { "aria-label": `What ${shown} means` },
                      select: { native: false },
                    }}
                    sx={{ width: 250 }}
                  >
                    {MEANINGS.map(([value, words]) => (
                      <MenuItem key={value} value={value}>
                        {words}
                      </MenuItem>
                    ))}
                  </TextField>
                </td>
                <td>
                  <TextField
                    value={row.name}
                    onChange={(event) => change(row.code, { name: event.target.value })}
                    slotProps={{ htmlInput: { "aria-label": `What ${shown} is called` } }}
                    sx={{ width: 190 }}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="quiet">
        {grouped(events)} of {grouped(total)} rows would have the event.
        {rows.length > given.length ? ` Without a meaning still: ${unknown.join(", ")}.` : ""}
      </p>
      {proposed.length ? (
        <p>
          Probably{" "}
          {proposed
            .map((r) => `${r.code} is ${r.proposed === "event" ? "the event" : "censored"}`)
            .join(", ")}
          : {[...new Set(proposed.map((r) => r.because))].join("; ")}.{" "}
          <Button
            variant="outlined"
            onClick={() =>
              setRows(rows.map((r) => (r.meaning ? r : { ...r, meaning: r.proposed ?? null })))
            }
          >
            Fill these in
          </Button>
        </p>
      ) : null}
      <Button
        variant="contained"
        onClick={() =>
          onSet(
            Object.fromEntries(
              given.map((r) => [r.code, { meaning: r.meaning as string, name: r.name }]),
            ),
          )
        }
      >
        Set meanings
      </Button>
    </div>
  );
}

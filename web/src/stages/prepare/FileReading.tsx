import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";
import { useChangeReading } from "../../api/changes";
import { useFileReading } from "../../api/queries";
import type { FileReading as Reading, Recipe } from "../../api/types";
import { Refused } from "../../frame/ReasonField";
import { Working } from "../../frame/StagePage";
import { AsWritten } from "./RowsTable";
import "./FileReading.css";

type Key = keyof Recipe;
type Options = readonly (readonly [string, string])[];

const CHOICES: Partial<Record<Key, readonly [string, Options]>> = {
  encoding: ["Encoding", ["UTF-8", "UTF-16", "Windows-1252"].map((v) => [v, v] as const)],
  delimiter: [
    "Cells are set apart by",
    [
      [",", "comma"],
      [";", "semicolon"],
      ["\t", "tab"],
      ["|", "bar"],
      [" ", "alignment by spaces"],
    ],
  ],
  quote: [
    "Quotation mark",
    [
      ['"', "double"],
      ["'", "apostrophe"],
      ["", "none"],
    ],
  ],
  decimal: [
    "Decimal mark",
    [
      [".", "point"],
      [",", "comma"],
    ],
  ],
  thousands: [
    "Thousands mark",
    [
      ["", "none"],
      [",", "comma"],
      [".", "point"],
      [" ", "space"],
      ["'", "apostrophe"],
    ],
  ],
};
type Described = NonNullable<Recipe["described"]>;
const UNDER: readonly Described[] = [
  [],
  ["units"],
  ["labels"],
  ["labels", "units"],
  ["units", "labels"],
];
const OF_TEXT: readonly Key[] = ["encoding", "delimiter", "quote", "decimal", "thousands"];

/** How the file is read: the evidence, and every part of it to be changed with a preview. */
export function FileReading({ study, onClose }: { study: string; onClose: () => void }) {
  const [changed, setChanged] = useState<Recipe | null>(null);
  const reading = useFileReading(study, changed);
  const change = useChangeReading(study);
  const last = useRef<Reading | null>(null);
  if (reading.data?.reading) last.current = reading.data.reading;
  const shown = reading.data?.reading ?? last.current;
  const work = reading.data?.work;
  const recipe = changed ?? shown?.recipe;
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="reading-title">
      <DialogTitle id="reading-title">How the file is read</DialogTitle>
      <DialogContent>
        {shown && recipe ? (
          <>
            <RecipeFields reading={shown} recipe={recipe} onChange={setChanged} />
            <Refused error={reading.error} />
            {work ? <Working work={work} /> : null}
            <Preview reading={shown} />
            <h3>Evidence</h3>
            <table className="numbers evidence" aria-label="Evidence">
              <tbody>
                {shown.evidence.map((e, k) => (
                  <tr key={k}>
                    <th scope="row">{e.about}</th>
                    <td className="wordy">{e.found}</td>
                    <td className="wordy quiet">{e.because}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        ) : (
          <>
            {work ? <Working work={work} /> : null}
            <Refused error={reading.error} />
          </>
        )}
        <Refused error={change.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!changed || Boolean(work) || reading.isError || change.isPending}
          onClick={() => changed && change.mutate(changed, { onSuccess: onClose })}
        >
          Read it this way
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function RecipeFields({
  reading,
  recipe,
  onChange,
}: {
  reading: Reading;
  recipe: Recipe;
  onChange: (recipe: Recipe) => void;
}) {
  const put = (part: Partial<Recipe>) => onChange({ ...recipe, ...part });
  const text = recipe.format === "delimited";
  const sheet = recipe.format === "spreadsheet";
  return (
    <div className="recipe">
      {text
        ? OF_TEXT.map((key) => {
            const [label, options] = CHOICES[key] ?? ["", []];
            return (
              <Choice
                key={key}
                label={label}
                options={options}
                value={String(recipe[key])}
                onChange={(value) => put({ [key]: value })}
              />
            );
          })
        : null}
      {sheet ? (
        <Choice
          label="Sheet"
          options={reading.sheets.map((s) => [s, s] as const)}
          value={recipe.sheet ?? ""}
          onChange={(value) => put({ sheet: value })}
        />
      ) : null}
      {sheet ? (
        <FrozenModel
          label="Range, such as B3:H200 (blank: all)"
          value={recipe.cells ?? ""}
          onChange={(value) =>
            (value === "" || /^[a-z]{1,3}\d{1,7}:[a-z]{1,3}\d{1,7}$/i.test(value)) &&
            put({ cells: value })
          }
        />
      ) : null}
      {text || sheet ? (
        <>
          <FrozenModel
            label="Line of the names (0: none)"
            value={String(recipe.header)}
            onChange={(value) => /^\d{1,3}$/.test(value) && put({ header: Number(value) })}
          />
          <Choice
            label="Line above the names"
            options={[
              ["0", "no part of them"],
              ["1", "headings that go before them"],
            ]}
            value={String(recipe.headings)}
            onChange={(value) => put({ headings: Number(value) })}
          />
          <Choice
            label="Lines under the names"
            options={UNDER.map(
              (kinds) => [kinds.join(" "), kinds.join(", then ") || "rows"] as const,
            )}
            value={(recipe.described ?? []).join(" ")}
            onChange={(value) => put({ described: value.split(" ").filter(Boolean) as Described })}
          />
          <FrozenModel
            label="Last lines left out"
            value={String(recipe.footer)}
            onChange={(value) => /^\d{1,3}$/.test(value) && put({ footer: Number(value) })}
          />
        </>
      ) : null}
      <FrozenModel
        label="Words for missing among numbers and dates, by commas"
        value={(recipe.missing ?? []).join(", ")}
        onChange={(value) =>
          put({
            missing: value
              .split(",")
              .map((w) => w.trim())
              .filter(Boolean),
          })
        }
      />
      <FrozenModel
        label="Two-digit years begin at"
        value={String(recipe.century_from)}
        onChange={(value) => /^(18|19|20)\d\d$/.test(value) && put({ century_from: Number(value) })}
      />
    </div>
  );
}

function Choice({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: Options;
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <TextField select label={label} value={value} onChange={(e) => onChange(e.target.value)}>
      {options.map(([v, words]) => (
        <MenuItem key={v} value={v}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}

function FrozenModel({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  return (
    <TextField
      label={label}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        onChange(event.target.value.trim());
      }}
    />
  );
}

/** Whether rows are left out before this one: the beginning and the end are shown. */
function gapBefore(reading: Reading, k: number): boolean {
  const rows = reading.page.rows;
  return k > 0 && (rows[k]?.number ?? 0) > (rows[k - 1]?.number ?? 0) + 1;
}

function Preview({ reading }: { reading: Reading }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must take the keyboard
    <section className="rows-scroll reading-preview" tabIndex={0} aria-label="Rows, read so">
      <table>
        <thead>
          <tr>
            <th scope="col" className="quiet">
              row
            </th>
            {reading.columns.map((c) => (
              <th key={c.name} scope="col">
                <b>{c.name}</b> <span className="quiet">{c.kind}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {reading.page.rows.map((row, k) => (
            <tr key={row.number} className={gapBefore(reading, k) ? "after-gap" : ""}>
              <th scope="row">{row.number}</th>
              {row.cells.map((cell, c) => (
                <td key={reading.columns[c]?.name ?? c}>
                  {cell === "" ? <span className="quiet">—</span> : cell}
                  <AsWritten text={row.as_written[c]} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import type { ColumnView } from "../../../api/types";
import { grouped } from "../../../numbers/format";
import { ColumnAdder } from "./ColumnAdder";
import "./mappings.css";

/** A new name for each level; levels with one name become one. */
export function LevelNames({
  column,
  value,
  onChange,
}: {
  column: ColumnView | undefined;
  value: Record<string, string>;
  onChange: (value: Record<string, string>) => void;
}) {
  if (!column) return <span className="quiet">choose a column first</span>;
  return (
    <table className="level-names">
      <tbody>
        {column.levels.map(({ level, rows }) => (
          <tr key={level}>
            <th scope="row">
              {level} <span className="quiet">{grouped(rows)}</span>
            </th>
            <td>
              <TextField
                value={value[level] ?? level}
                onChange={(event) => {
                  const { [level]: _, ...others } = value;
                  const name = event.target.value;
                  onChange(name === level ? others : { ...others, [level]: name });
                }}
                slotProps={{ htmlInput: { "aria-label": `New name of ${level}` } }}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Levels in the order they are to stand in; each can be moved up or down. */
export function LevelOrder({
  column,
  value,
  onChange,
}: {
  column: ColumnView | undefined;
  value: string[];
  onChange: (value: string[]) => void;
}) {
  if (!column) return <span className="quiet">choose a column first</span>;
  const known = column.levels.map((l) => l.level);
  const order = [
    ...value.filter((level) => known.includes(level)),
    ...known.filter((level) => !value.includes(level)).sort(),
  ];
  const move = (k: number, by: number) => {
    const next = [...order];
    const [level] = next.splice(k, 1);
    next.splice(k + by, 0, level as string);
    onChange(next);
  };
  return (
    <ol className="level-order">
      {order.map((level, k) => (
        <li key={level}>
          <span>{level}</span>
          <Button disabled={k === 0} aria-label={`Move ${level} up`} onClick={() => move(k, -1)}>
            ↑
          </Button>
          <Button
            disabled={k === order.length - 1}
            aria-label={`Move ${level} down`}
            onClick={() => move(k, 1)}
          >
            ↓
          </Button>
        </li>
      ))}
    </ol>
  );
}

/** A formula, its mistakes pointed at, columns within reach. */
export function FormulaField({
  value,
  columns,
  broken,
  onChange,
}: {
  value: string;
  columns: readonly ColumnView[];
  broken: string;
  onChange: (value: string) => void;
}) {
  const at = /\(at character (\d+)\)$/.exec(broken);
  const place = at ? Number(at[1]) - 1 : null;
  return (
    <div className="formula">
      <TextField
        label="Formula"
        value={value}
        fullWidth
        multiline
        error={broken !== ""}
        onChange={(event) => onChange(event.target.value)}
        slotProps={{ htmlInput: { spellCheck: false, className: "formula-text" } }}
      />
      {place !== null && value ? (
        <p className="formula-place" aria-hidden="true">
          {value.slice(0, place)}
          <mark>{value[place] ?? " "}</mark>
          {value.slice(place + 1)}
        </p>
      ) : null}
      <p className="quiet">
        Such as <code>if age ≥ 65 then "older" else "younger"</code> or{" "}
        <code>max(weight, 40) / (height / 100) ^ 2</code>. Names with spaces go in square brackets;
        dates apart give days; also min, max, abs, log, exp, sqrt, round, floor, year, month,
        date("2021-04-30"), <code>is missing</code>, <code>in (…)</code>.
      </p>
      <div className="formula-columns">
        {columns.slice(0, 40).map((c) => (
          <Button
            key={c.name}
            aria-label={`Put ${c.name} into the formula`}
            onClick={() =>
              onChange(`${value}${value && !value.endsWith(" ") ? " " : ""}${written(c.name)}`)
            }
          >
            {c.name}
          </Button>
        ))}
      </div>
    </div>
  );
}

const KEYWORDS = /^(if|then|else|and|or|not|is|missing|present|in)$/i;

function written(name: string): string {
  return /^[^\W\d]\w*$/u.test(name) && !KEYWORDS.test(name) ? name : `[${name}]`;
}

/** Columns, each with a name for what it holds. */
export function Pairs({
  label,
  columns,
  value,
  onChange,
}: {
  label: string;
  columns: readonly ColumnView[];
  value: Record<string, string>;
  onChange: (value: Record<string, string>) => void;
}) {
  return (
    <div className="pairs">
      {Object.entries(value).map(([name, called]) => (
        <div key={name}>
          <b>{name}</b> is{" "}
          <TextField
            label={label}
            value={called}
            onChange={(event) => onChange({ ...value, [name]: event.target.value })}
          />
          <Button
            aria-label={`Leave out ${name}`}
            onClick={() =>
              onChange(Object.fromEntries(Object.entries(value).filter(([n]) => n !== name)))
            }
          >
            Leave out
          </Button>
        </div>
      ))}
      <ColumnAdder
        label="Add a column"
        columns={columns.filter((c) => !(c.name in value))}
        onAdd={(name) => onChange({ ...value, [name]: name })}
      />
    </div>
  );
}

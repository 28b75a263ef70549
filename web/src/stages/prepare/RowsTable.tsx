import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { useRows } from "../../api/queries";
import type { ColumnReading } from "../../api/types";
import { grouped } from "../../numbers/format";

const PAGE = 6;

/** Columns with their small distributions, and some rows under them. */
export function RowsTable({
  study,
  columns,
  marked,
  onAll,
}: {
  study: string;
  columns: readonly ColumnReading[];
  marked: number[] | null;
  onAll: () => void;
}) {
  const [first, setFirst] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: other rows are read from their start
  useEffect(() => setFirst(0), [marked]);
  const page = useRows(study, first, PAGE, marked).data;
  const total = page?.total ?? 0;
  const shown = page?.rows ?? [];
  return (
    <section className="rows" aria-label="Columns and rows">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must take the keyboard */}
      <section className="rows-scroll" tabIndex={0} aria-label="Table of rows, scrolls sideways">
        <table>
          <thead>
            <tr>
              <th scope="col" className="row-number">
                row
              </th>
              {columns.map((column) => (
                <th key={column.name} scope="col">
                  <ColumnHead column={column} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((row) => (
              <tr key={row.number} className={marked ? "marked" : ""}>
                <th scope="row" className="row-number">
                  {row.number}
                </th>
                {row.cells.map((cell, k) => (
                  <td key={columns[k]?.name ?? k} title={cell.length > 24 ? cell : undefined}>
                    {cell === "" ? <span className="quiet">—</span> : cell}
                    <AsWritten text={row.as_written[k]} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <p className="rows-foot">
        <span className="quiet">
          {marked ? "rows of the finding: " : "rows "}
          {total ? `${first + 1}–${first + shown.length} of ${grouped(total)}` : "none"}
        </span>
        <Button disabled={first === 0} onClick={() => setFirst(Math.max(first - PAGE, 0))}>
          Earlier rows
        </Button>
        <Button disabled={first + PAGE >= total} onClick={() => setFirst(first + PAGE)}>
          Later rows
        </Button>
        {marked ? <Button onClick={onAll}>Show all rows</Button> : null}
      </p>
    </section>
  );
}

/** What the file said, beside what was read from it. */
export function AsWritten({ text }: { text: string | undefined }) {
  return text ? <span className="as-written">file: {text}</span> : null;
}

function ColumnHead({ column }: { column: ColumnReading }) {
  const kind = { number: "number", date: "date", text: "text" }[column.kind];
  return (
    <div className="column-head">
      <b title={column.label ? `${column.name}: ${column.label}` : column.name}>
        {column.name}
        {column.unit ? <span className="quiet"> {column.unit}</span> : null}
      </b>
      <span className={column.role ? "role" : "quiet"}>{column.role || kind}</span>
      <Distribution column={column} />
      <span className={column.missing ? "missing" : "quiet"}>
        {column.missing ? `${grouped(column.missing)} missing` : summary(column)}
      </span>
    </div>
  );
}

function summary(column: ColumnReading): string {
  if (column.kind === "date") return `${column.low.slice(0, 4)} to ${column.high.slice(0, 4)}`;
  if (column.kind === "number") return `${column.low} to ${column.high}`;
  return column.distinct === 1 ? "1 level" : `${grouped(column.distinct)} levels`;
}

const WIDTH = 84;
const HEIGHT = 26;

/** A histogram of numbers and dates, a bar of levels for text. */
function Distribution({ column }: { column: ColumnReading }) {
  if (column.bins.length) {
    const most = Math.max(...column.bins, 1);
    const step = WIDTH / column.bins.length;
    return (
      <svg width={WIDTH} height={HEIGHT} aria-hidden="true">
        {column.bins.map((n, k) => (
          <rect
            key={k}
            x={k * step}
            width={step - 0.8}
            y={HEIGHT - (HEIGHT * n) / most}
            height={(HEIGHT * n) / most}
            className="bin"
          />
        ))}
      </svg>
    );
  }
  const sum = column.levels.reduce((total, one) => total + one.rows, 0) || 1;
  if (column.distinct > 20) return <svg width={WIDTH} height={HEIGHT} aria-hidden="true" />;
  let x = 0;
  return (
    <svg width={WIDTH} height={HEIGHT} role="img" aria-label={levelsInWords(column)}>
      <title>{levelsInWords(column)}</title>
      {column.levels.map(({ level, rows }, k) => {
        const width = (WIDTH * rows) / sum;
        const at = x;
        x += width;
        return (
          <rect
            key={level}
            x={at}
            width={Math.max(width - 1, 0.5)}
            y={9}
            height={13}
            className="level"
            style={{ opacity: 1 - 0.8 * (k / Math.max(column.levels.length, 2)) }}
          />
        );
      })}
    </svg>
  );
}

function levelsInWords(column: ColumnReading): string {
  return column.levels.map(({ level, rows }) => `${level} ${rows}`).join(", ");
}

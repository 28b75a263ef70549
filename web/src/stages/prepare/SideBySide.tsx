import type { Finding } from "../../api/types";
import "./SideBySide.css";

/** Rows of one subject as the columns of a small table, a line for each column in which they differ. */
export function SideBySide({ rows }: { rows: Finding["beside"][number] }) {
  if (rows.columns.length === 0) {
    return <p className="quiet">These rows are alike in all other columns.</p>;
  }
  return (
    <table className="side-by-side" aria-label={`Rows of ${rows.name}`}>
      <thead>
        <tr>
          <td />
          {rows.rows.map((row) => (
            <th key={row} scope="col">
              row {row}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.columns.map((column, k) => (
          <tr key={column}>
            <th scope="row">{column}</th>
            {rows.cells.map((cells, r) => (
              <td key={rows.rows[r]}>{cells[k] || <span className="quiet">—</span>}</td>
            ))}
          </tr>
        ))}
      </tbody>
      {rows.more ? (
        <caption className="quiet">and {rows.more} more columns that differ</caption>
      ) : null}
    </table>
  );
}

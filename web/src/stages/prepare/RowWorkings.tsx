import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import { useRowFollowUp } from "../../api/queries";
import "./RowWorkings.css";

/** How a row's time and end arose: which cells, which rules. */
export function RowWorkings({
  study,
  row,
  onClose,
}: {
  study: string;
  row: number;
  onClose: () => void;
}) {
  const found = useRowFollowUp(study, row);
  const panel = useRef<HTMLElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another row takes the focus again
  useEffect(() => panel.current?.focus(), [row]);
  const worked = found.data;
  return (
    <section
      className="row-workings"
      ref={panel}
      tabIndex={-1}
      aria-label={`Workings of row ${row}`}
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      <header>
        <h2>
          Row {row}
          {worked ? `: ${worked.time}, ${worked.status}` : ""}
        </h2>
        <Button onClick={onClose}>Close</Button>
      </header>
      {found.error ? <p>{found.error.message}</p> : null}
      {worked ? (
        <table>
          <tbody>
            {worked.lines.map((line) => (
              <tr key={`${line.what} ${line.rule}`}>
                <th scope="row">{line.what}</th>
                <td>{line.value}</td>
                <td className="quiet">{line.rule}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
    </section>
  );
}

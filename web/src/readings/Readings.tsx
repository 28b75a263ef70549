import type { ReactNode } from "react";
import type { Caution as CautionText, Verdict } from "../api/types";
import { tied } from "../numbers/tied";
import { ColumnHead } from "../tables/ColumnHead";
import { VerdictIcon } from "../theme/VerdictIcon";
import { useToneClass } from "./chosenTones";
import "./Readings.css";

/** The quiet column of numbers at the right, words first. */
export function Readings({ children }: { children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must take the keyboard
    <aside id="readings" className="readings" aria-label="Readings" tabIndex={0}>
      {children}
    </aside>
  );
}

export function Section({ title, children }: { title: ReactNode; children: ReactNode }) {
  return (
    <section className="readings-section">
      <h2>{title}</h2>
      {children}
    </section>
  );
}

interface Cell {
  text: ReactNode;
  tone?: number;
  strong?: boolean;
  /** Words instead of figures: they may run over the columns to the right. */
  wordy?: boolean;
}

/** A small table: head, then rows whose first cell names them. */
export function Numbers({
  label,
  head,
  rows,
}: {
  label: string;
  head?: readonly string[];
  rows: readonly (readonly (ReactNode | Cell)[])[];
}) {
  const toneClass = useToneClass();
  return (
    <table className="numbers" aria-label={label}>
      {head ? (
        <thead>
          <tr>
            {head.map((h, k) => (
              <ColumnHead key={k} words={h} />
            ))}
          </tr>
        </thead>
      ) : null}
      <tbody>
        {rows.map((row, r) => (
          <tr key={r}>
            {row.map((cell, k) => {
              const shown = asCell(cell);
              const name = [
                shown.tone === undefined ? "" : toneClass(shown.tone),
                shown.strong ? "strong" : "",
              ].join(" ");
              return k === 0 ? (
                <th key={k} scope="row" className={name}>
                  {shown.text}
                </th>
              ) : (
                <td
                  key={k}
                  className={shown.wordy ? "wordy" : name}
                  colSpan={shown.wordy ? 9 : undefined}
                >
                  {shown.text}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function asCell(cell: ReactNode | Cell): Cell {
  return typeof cell === "object" && cell !== null && "text" in cell ? cell : { text: cell };
}

/** A sentence to be read before the number it stands beside. */
export function Caution({ caution, children }: { caution: CautionText; children?: ReactNode }) {
  return (
    <div className="caution" role="note">
      <strong>{caution.lead}</strong> {tied(caution.sentence)}
      {children}
    </div>
  );
}

/** A verdict in shape and word, never by colour. */
export function Shape({ verdict }: { verdict: Verdict }) {
  return (
    <span className="shape" aria-hidden="true">
      <VerdictIcon verdict={verdict} />
    </span>
  );
}

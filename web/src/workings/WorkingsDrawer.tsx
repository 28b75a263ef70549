import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import type { Workings } from "../api/types";
import { plain } from "../numbers/format";
import { useWorkings, useWorkingsOf } from "./workings";
import "./workings.css";

/** The drawer at the bottom edge: closed, a line that says what it is for. */
export function WorkingsDrawer({ study, hint }: { study: string; hint: string }) {
  const { asked, close } = useWorkings();
  const found = useWorkingsOf(study, asked);
  const panel = useRef<HTMLElement>(null);
  useEffect(() => {
    if (asked) panel.current?.focus();
  }, [asked]);
  if (!asked) {
    return (
      <div className="workings-bar">
        <span aria-hidden="true">▴</span> Workings <span className="quiet">{hint}</span>
      </div>
    );
  }
  return (
    <section className="workings" ref={panel} tabIndex={-1} aria-label="Workings">
      <header>
        <h2>{found.data?.title ?? "Workings"}</h2>
        {found.data ? <Take workings={found.data} /> : null}
        <Button onClick={close}>Close</Button>
      </header>
      {found.error ? <p>{found.error.message}</p> : null}
      {found.data ? <Sheet workings={found.data} /> : <p className="quiet">Working it out …</p>}
    </section>
  );
}

function Sheet({ workings }: { workings: Workings }) {
  const marked = useRef<HTMLTableRowElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: scroll anew for each sheet
  useEffect(() => {
    marked.current?.scrollIntoView({ block: "center" });
  }, [workings]);
  return (
    <div className="workings-body">
      <div className="workings-formula">
        {workings.formula.map((line) => (
          <p key={line}>{line}</p>
        ))}
        <p className="quiet">{workings.note}</p>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must take the keyboard */}
      <section className="workings-table" tabIndex={0} aria-label="Terms">
        <table>
          <thead>
            <tr>
              {workings.columns.map((c) => (
                <th key={c.key} scope="col">
                  {c.label}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {workings.rows.map((row, r) => (
              <tr
                key={r}
                ref={r === workings.marked ? marked : null}
                className={r === workings.marked ? "marked" : ""}
              >
                {row.map((cell, k) => (
                  <td key={k}>
                    {cell === null ? "" : typeof cell === "number" ? plain(cell, 7) : cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </div>
  );
}

/** Copying and saving the table of terms, at full precision. */
function Take({ workings }: { workings: Workings }) {
  const lines = (separator: string) =>
    [
      workings.columns.map((c) => c.key).join(separator),
      ...workings.rows.map((row) => row.map((c) => (c === null ? "" : String(c))).join(separator)),
    ].join("\n");
  return (
    <>
      <Button
        onClick={() =>
          void navigator.clipboard.writeText(`${workings.formula.join("\n")}\n\n${lines("\t")}`)
        }
      >
        Copy
      </Button>
      <Button
        component="a"
        download="workings.csv"
        href={`data:text/csv;charset=utf-8,${encodeURIComponent(`${lines(",")}\n`)}`}
      >
        Save as CSV
      </Button>
    </>
  );
}

import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { useDescribe } from "../../api/queries";
import type { Describe as Described } from "../../api/types";
import { Refused } from "../../frame/ReasonField";
import { Working } from "../../frame/StagePage";
import { grouped } from "../../numbers/format";
import { Distributions } from "./Distributions";
import "./Describe.css";

const NOBODY = "all together";

/** Who is in the groups, before their curves are compared. */
export function Describe({ study }: { study: string }) {
  const [by, setBy] = useState<string | null>(null);
  const query = useDescribe(study, by);
  const found = query.data?.result;
  if (query.data?.work) return <Working work={query.data.work} />;
  if (!found) return <Refused error={query.error} />;
  const address = `/api/studies/${study}/describe.csv${by ? `?by=${encodeURIComponent(by)}` : ""}`;
  return (
    <section className="describe" aria-label="Describe">
      <div className="describe-head">
        <TextField
          select
          label="Described by"
          value={by ?? NOBODY}
          onChange={(event) => setBy(event.target.value === NOBODY ? null : event.target.value)}
        >
          <MenuItem value={NOBODY}>{NOBODY}</MenuItem>
          {found.can_group.map((name) => (
            <MenuItem key={name} value={name}>
              {name}
            </MenuItem>
          ))}
        </TextField>
        <Button onClick={() => void navigator.clipboard.writeText(asText(found))}>Copy</Button>
        <Button component="a" href={address} download>
          Save as CSV
        </Button>
      </div>
      <Refused error={query.error} />
      <BaselineTable found={found} />
      <p className="quiet">{found.note}</p>
      <Distributions distributions={found.distributions} />
      <Relations found={found} />
    </section>
  );
}

function BaselineTable({ found }: { found: Described }) {
  const differences = found.groups.length > 2;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must take the keyboard
    <section className="rows-scroll" tabIndex={0} aria-label="Baseline table, scrolls sideways">
      <table className="baseline" aria-label="Baseline table">
        <thead>
          <tr>
            <th scope="col">column</th>
            <th scope="col">what</th>
            {found.groups.map((g) => (
              <th key={g.label} scope="col" className="figure">
                {g.label} <span className="quiet">{grouped(g.rows)}</span>
              </th>
            ))}
            {differences ? (
              <th scope="col" className="figure">
                standardised difference
              </th>
            ) : null}
          </tr>
        </thead>
        <tbody>
          {found.rows.map((row, k) => (
            <tr key={k} className={found.rows[k - 1]?.column === row.column ? "" : "first"}>
              <th scope="row">{found.rows[k - 1]?.column === row.column ? "" : row.label}</th>
              <td className="what">{row.what}</td>
              {row.cells.map((cell, c) => (
                <td key={c} className="figure">
                  {cell.text}
                </td>
              ))}
              {differences ? (
                <td className="figure">
                  {row.difference === null ? "" : row.difference?.toFixed(3)}
                </td>
              ) : null}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The table as text, cells set apart by tabs, as a document or a spreadsheet takes it. */
function asText(found: Described): string {
  const head = ["column", "what", ...found.groups.map((g) => `${g.label} (${g.rows})`)];
  const rows = found.rows.map((row) => [
    row.label,
    row.what,
    ...row.cells.map((c) => c.text),
    row.difference === null ? "" : String(row.difference?.toFixed(3)),
  ]);
  const last = found.groups.length > 2 ? ["standardised difference"] : [];
  return [[...head, ...last], ...rows].map((row) => row.join("\t")).join("\n");
}

/** Rates of the event at each level: a first look, not a comparison. */
function Relations({ found }: { found: Described }) {
  if (found.relations.length === 0) return null;
  return (
    <section aria-label="Relation to follow-up">
      <h2>Rates of the event</h2>
      <p className="quiet">
        Events per unit of time followed, at each level or in each quarter of a number. A first
        look: who is followed how long differs, and nothing is adjusted or tested here.
      </p>
      <div className="relations">
        {found.relations.map((relation) => {
          const most = Math.max(...relation.bands.map((b) => b.rate ?? 0), 1e-300);
          return (
            <table
              key={relation.column}
              className="numbers"
              aria-label={`Rates by ${relation.label}`}
            >
              <thead>
                <tr>
                  <th scope="col">{relation.label}</th>
                  <th scope="col">rows</th>
                  <th scope="col">events</th>
                  <th scope="col">rate</th>
                  <td />
                </tr>
              </thead>
              <tbody>
                {relation.bands.map((band) => (
                  <tr key={band.label}>
                    <th scope="row">{band.label}</th>
                    <td>{grouped(band.rows)}</td>
                    <td>{grouped(band.events)}</td>
                    <td>{band.rate === null ? "—" : band.rate?.toPrecision(3)}</td>
                    <td className="rate-bar">
                      <span style={{ width: `${(70 * (band.rate ?? 0)) / most}px` }} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          );
        })}
      </div>
    </section>
  );
}

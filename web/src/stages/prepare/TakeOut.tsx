import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";

const FILES = [
  [
    "prepared.csv",
    "Prepared table, CSV",
    "text a spreadsheet would run gets an apostrophe in front; take one off to have it back",
  ],
  [
    "prepared.csv?cells=exact",
    "Prepared table, CSV, cells as they are",
    "not to be opened in a spreadsheet if you do not trust the file",
  ],
  [
    "prepared.csv?values=curve",
    "Prepared table with the curve's values, CSV",
    "survival, its error, hazard and number at risk at each row's own time",
  ],
  [
    "prepared.csv?values=model",
    "Prepared table with the model's values, CSV",
    "linear predictor, every residual, predicted survival at its own time, influence",
  ],
  [
    "prepared.parquet?values=model",
    "Prepared table with the model's values, Parquet",
    "the same, typed",
  ],
  ["prepared.parquet", "Prepared table, Parquet", "typed, with labels and units inside"],
  ["codebook.csv", "Codebook", "names, labels, units, levels, and where each column comes from"],
  ["ledger.svg", "Rows read, set aside and analysed, as a figure", "SVG"],
  ["ledger.txt", "Rows read, set aside and analysed, as text", "plain text"],
] as const;

/** What can be taken away from Prepare. */
export function TakeOut({ study, ready }: { study: string; ready: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        Export …
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {FILES.map(([path, title, about]) => (
          <MenuItem
            key={path}
            component="a"
            href={`/api/studies/${study}/${path}`}
            download
            disabled={!ready && !path.startsWith("ledger")}
            onClick={() => setAnchor(null)}
          >
            <span>
              <span className="option-label">{title}</span>
              <br />
              <span className="option-note">{about}</span>
            </span>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

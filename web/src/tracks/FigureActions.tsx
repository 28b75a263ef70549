import Button from "@mui/material/Button";
import { useState } from "react";
import type { Figure } from "../api/types";
import { ExportFigure } from "./ExportFigure";
import { FigureTable } from "./FigureTable";

/** What can be done with any figure: its tables, and its file. */
export function FigureActions({
  study,
  view,
  figure,
  drawing,
  tracks,
}: {
  study: string;
  view: string;
  figure: Figure;
  drawing: string;
  tracks: readonly string[];
}) {
  const [open, setOpen] = useState<"table" | "export" | null>(null);
  const close = () => setOpen(null);
  const shared = { study, drawing, tracks, onClose: close };
  return (
    <>
      <Button onClick={() => setOpen("table")}>Figure as a table</Button>
      <Button onClick={() => setOpen("export")}>Export figure</Button>
      {open === "table" ? <FigureTable {...shared} name={figure.name} /> : null}
      {open === "export" ? <ExportFigure {...shared} view={view} figure={figure} /> : null}
    </>
  );
}

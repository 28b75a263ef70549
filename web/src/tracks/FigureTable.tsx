import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import { fetchFigureTable, figureTableFile } from "../api/drawings";
import { fromPages, PAGE, withPages } from "../api/pages";
import { VirtualTable } from "../tables/VirtualTable";
import "./FigureTable.css";

interface Props {
  study: string;
  drawing: string;
  name: string;
  tracks: readonly string[];
  onClose: () => void;
}

/** The tables behind the figure: every value it draws, at full precision. */
export function FigureTable({ study, drawing, name, tracks, onClose }: Props) {
  const [which, setWhich] = useState(0);
  const [pages, setPages] = useState<readonly number[]>([0]);
  const asked = { which, tracks: [...tracks] };
  const found = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["drawing", study, drawing, "table", which, tracks, page],
      queryFn: () => fetchFigureTable(study, drawing, { ...asked, first: page * PAGE, most: PAGE }),
      placeholderData: keepPreviousData,
    })),
  });
  const table = found[0]?.data;
  const state = found.map((query) => query.dataUpdatedAt).join(",");
  // biome-ignore lint/correctness/useExhaustiveDependencies: when each page came is the key
  const rows = useMemo(() => {
    const arrived = found.flatMap((query) =>
      query.data ? [[query.data.first / PAGE, query.data.rows] as const] : [],
    );
    return fromPages(table?.total ?? 0, new Map(arrived));
  }, [table, state]);
  const columns = useMemo(
    () =>
      (table?.heads ?? []).map((head, k) => ({
        key: `${k}`,
        head,
        rowHead: k === 0,
        cell: (row: readonly string[]) => row[k] ?? "",
      })),
    [table?.heads],
  );
  const onSight = useCallback(
    (first: number, last: number) => setPages((now) => withPages(now, first, last)),
    [],
  );
  const address = figureTableFile(study, drawing, asked);
  const copy = async () => {
    const lines = await (await fetch(`${address}&between=tabs`)).text();
    await navigator.clipboard.writeText(lines.replace(/\r\n/g, "\n").trimEnd());
  };
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="figure-table-title">
      <DialogTitle id="figure-table-title">{name}</DialogTitle>
      <DialogContent className="figure-table">
        {table && table.titles.length > 1 ? (
          <TextField
            select
            label="Table"
            value={which}
            onChange={(event) => {
              setWhich(Number(event.target.value));
              setPages([0]);
            }}
          >
            {table.titles.map((title, k) => (
              <MenuItem key={title} value={k}>
                {title}
              </MenuItem>
            ))}
          </TextField>
        ) : null}
        {table ? (
          <VirtualTable
            key={which}
            label={table.titles[which] ?? name}
            columns={columns}
            rows={rows}
            onSight={onSight}
          />
        ) : (
          <p className="quiet">{found[0]?.error?.message ?? "Opening …"}</p>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={() => void copy()}>Copy</Button>
        <Button component="a" href={address} download>
          Save as CSV
        </Button>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

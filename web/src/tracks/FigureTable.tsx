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
  const requested = { which, tracks: [...tracks] };
  const { table, rows, error } = useTablePages(study, drawing, which, tracks, pages);
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
  const address = figureTableFile(study, drawing, requested);
  const copy = async () => {
    const lines = await (await fetch(`${address}&between=tabs`)).text();
    await navigator.clipboard.writeText(lines.replace(/\r\n/g, "\n").trimEnd());
  };
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="figure-table-title">
      <DialogTitle id="figure-table-title">{name}</DialogTitle>
      <DialogContent className="figure-table">
        {table && table.titles.length > 1 ? (
          <WhichTable
            titles={table.titles}
            which={which}
            onWhich={(place) => {
              setWhich(place);
              setPages([0]);
            }}
          />
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
          <p className="quiet">{error?.message ?? "Opening …"}</p>
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

/** Some pages of a table: what it is, and its rows as far as they have come. */
function useTablePages(
  study: string,
  drawing: string,
  which: number,
  tracks: readonly string[],
  pages: readonly number[],
) {
  const found = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["drawing", study, drawing, "table", which, tracks, page],
      queryFn: () =>
        fetchFigureTable(study, drawing, {
          which,
          tracks: [...tracks],
          first: page * PAGE,
          most: PAGE,
        }),
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
  return { table, rows, error: found[0]?.error };
}

interface WhichTableProps {
  titles: readonly string[];
  which: number;
  onWhich: (place: number) => void;
}

function WhichTable({ titles, which, onWhich }: WhichTableProps) {
  return (
    <TextField
      select
      label="Table"
      value={which}
      onChange={(event) => onWhich(Number(event.target.value))}
    >
      {titles.map((title, k) => (
        <MenuItem key={title} value={k}>
          {title}
        </MenuItem>
      ))}
    </TextField>
  );
}

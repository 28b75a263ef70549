import { createColumnHelper, tableFeatures, useTable } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useEffect, useMemo, useRef } from "react";
import "./VirtualTable.css";

const ROW = 25;
const FEATURES = tableFeatures({});

export interface VirtualColumn<R> {
  key: string;
  head: ReactNode;
  cell: (row: R) => ReactNode;
  rowHead?: boolean;
}

/**
 * A table of any length, of which only the rows in sight are drawn. Rows that have not arrived are
 * null; `onSight` is told which are looked at, so that they can be fetched.
 */
export function VirtualTable<R>({
  label,
  columns,
  rows,
  marked,
  rowHeight = ROW,
  rowClass = "",
  onSight,
  sorted,
  onSort,
}: {
  label: string;
  columns: readonly VirtualColumn<R>[];
  rows: readonly (R | null)[];
  marked?: number | null;
  /** What a row is probably high; it is measured once it is there. */
  rowHeight?: number;
  rowClass?: string;
  onSight?: (first: number, last: number) => void;
  /** The column that the rows are sorted by, if they are. */
  sorted?: { key: string; descending: boolean } | null;
  onSort?: (key: string) => void;
}) {
  const frame = useRef<HTMLElement>(null);
  const defs = useMemo(() => {
    const helper = createColumnHelper<typeof FEATURES, { row: R | null }>();
    return columns.map((column) =>
      helper.display({
        id: column.key,
        header: () => column.head,
        cell: (context) => {
          const row = context.row.original.row;
          return row === null ? "…" : column.cell(row);
        },
      }),
    );
  }, [columns]);
  const data = useMemo(() => rows.map((row) => ({ row })), [rows]);
  const table = useTable({ features: FEATURES, columns: defs, data });
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => rowHeight,
    overscan: 8,
  });
  const seen = virtual.getVirtualItems();
  const first = seen[0]?.index ?? 0;
  const last = seen.at(-1)?.index ?? 0;
  useEffect(() => onSight?.(first, last), [first, last, onSight]);
  useEffect(() => {
    if (marked !== null && marked !== undefined) virtual.scrollToIndex(marked, { align: "center" });
  }, [marked, virtual]);
  const all = table.getRowModel().rows;
  const before = seen[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (seen.at(-1)?.end ?? 0);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must take the keyboard
    <section className="virtual-table" ref={frame} tabIndex={0} aria-label={label}>
      <table aria-rowcount={rows.length + 1} aria-label={label}>
        <thead>
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id} aria-rowindex={1}>
              {group.headers.map((header) => (
                <th key={header.id} scope="col" aria-sort={sortOf(header.id, sorted)}>
                  {onSort ? (
                    <button type="button" title="Sort" onClick={() => onSort(header.id)}>
                      <table.FlexRender header={header} />
                      {SIGNS[sortOf(header.id, sorted)]}
                    </button>
                  ) : (
                    <table.FlexRender header={header} />
                  )}
                </th>
              ))}
            </tr>
          ))}
        </thead>
        <tbody>
          <Space height={before} />
          {seen.map((item) => {
            const row = all[item.index];
            return row ? (
              <tr
                key={row.id}
                aria-rowindex={item.index + 2}
                data-index={item.index}
                ref={virtual.measureElement}
                className={item.index === marked ? "marked" : rowClass}
              >
                {row.getAllCells().map((cell, k) =>
                  columns[k]?.rowHead ? (
                    <th key={cell.id} scope="row">
                      <table.FlexRender cell={cell} />
                    </th>
                  ) : (
                    <td key={cell.id}>
                      <table.FlexRender cell={cell} />
                    </td>
                  ),
                )}
              </tr>
            ) : null;
          })}
          <Space height={after} />
        </tbody>
      </table>
    </section>
  );
}

const SIGNS = { none: "", ascending: " ↑", descending: " ↓" } as const;

function sortOf(
  key: string,
  sorted: { key: string; descending: boolean } | null | undefined,
): keyof typeof SIGNS {
  if (sorted?.key !== key) return "none";
  return sorted.descending ? "descending" : "ascending";
}

/** The rows that are out of sight, as empty room. */
function Space({ height }: { height: number }) {
  return height > 0 ? (
    <tr className="room">
      <td style={{ height }} />
    </tr>
  ) : null;
}

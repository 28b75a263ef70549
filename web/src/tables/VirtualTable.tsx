import { createColumnHelper, tableFeatures, useTable } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { Fragment, type ReactNode, useEffect, useMemo, useRef } from "react";
import "./VirtualTable.css";

const ROW = 25;
/** A table of more columns draws those alone that are in sight, all of one width. */
const MANY_COLUMNS = 60;
const COLUMN_WIDTH = 132;
const FEATURES = tableFeatures({});

export interface VirtualColumn<R> {
  key: string;
  head: ReactNode;
  cell: (row: R) => ReactNode;
  rowHead?: boolean;
}

/**
 * A table of any length and width, of which only the rows in sight are drawn, and the columns if
 * there are many. Rows that have not arrived are
 * null; `onSight` receives which are looked at, so that they can be fetched.
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
  const wide = columns.length > MANY_COLUMNS;
  const across = useVirtualizer({
    horizontal: true,
    count: wide ? columns.length - 1 : 0,
    getScrollElement: () => frame.current,
    estimateSize: () => COLUMN_WIDTH,
    overscan: 3,
  });
  const inSight = across.getVirtualItems();
  const from = inSight[0]?.index ?? 0;
  const until = (inSight.at(-1)?.index ?? -1) + 1;
  const left = inSight[0]?.start ?? 0;
  const right = across.getTotalSize() - (inSight.at(-1)?.end ?? 0);
  const drawn = useMemo(
    () => (wide ? [...columns.slice(0, 1), ...columns.slice(1 + from, 1 + until)] : columns),
    [wide, columns, from, until],
  );
  const place = (k: number) => (k === 0 || !wide ? k : k + from) + 1;
  const defs = useMemo(() => {
    const helper = createColumnHelper<typeof FEATURES, { row: R | null }>();
    return drawn.map((column) =>
      helper.display({
        id: column.key,
        header: () => column.head,
        cell: (context) => {
          const row = context.row.original.row;
          return row === null ? "…" : column.cell(row);
        },
      }),
    );
  }, [drawn]);
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
      <table
        aria-rowcount={rows.length + 1}
        aria-colcount={columns.length}
        aria-label={label}
        className={wide ? "wide" : ""}
      >
        <thead>
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id} aria-rowindex={1}>
              {group.headers.map((header, k) => (
                <Fragment key={header.id}>
                  {k === 1 ? <Beside width={left} /> : null}
                  <th scope="col" aria-colindex={place(k)} aria-sort={sortOf(header.id, sorted)}>
                    {onSort ? (
                      <button type="button" title="Sort" onClick={() => onSort(header.id)}>
                        <table.FlexRender header={header} />
                        {SIGNS[sortOf(header.id, sorted)]}
                      </button>
                    ) : (
                      <table.FlexRender header={header} />
                    )}
                  </th>
                </Fragment>
              ))}
              <Beside width={right} />
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
                  drawn[k]?.rowHead ? (
                    <th key={cell.id} scope="row" aria-colindex={place(k)}>
                      <table.FlexRender cell={cell} />
                    </th>
                  ) : (
                    <Fragment key={cell.id}>
                      {k === 1 ? <Beside width={left} /> : null}
                      <td aria-colindex={place(k)}>
                        <table.FlexRender cell={cell} />
                      </td>
                    </Fragment>
                  ),
                )}
                <Beside width={right} />
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

/** The columns that are out of sight at one side, as empty room. */
function Beside({ width }: { width: number }) {
  return width > 0 ? (
    <td className="beside" style={{ minWidth: width }} aria-hidden="true" />
  ) : null;
}

/** The rows that are out of sight, as empty room. */
function Space({ height }: { height: number }) {
  return height > 0 ? (
    <tr className="room">
      <td style={{ height }} />
    </tr>
  ) : null;
}

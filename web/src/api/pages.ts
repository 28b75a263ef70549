/** How many rows are fetched at once, unless they are very wide. */
export const PAGE = 200;
const MAX_CELLS = 60_000;
const MIN_ROWS = 20;

/** How many rows of so many columns are fetched at once. */
export function pageFor(columns: number): number {
  return Math.max(MIN_ROWS, Math.min(PAGE, Math.floor(MAX_CELLS / Math.max(columns, 1))));
}

/** The pages that hold the rows in sight, beside those there are already. */
export function withPages(
  now: readonly number[],
  first: number,
  last: number,
  size = PAGE,
): readonly number[] {
  const wanted = [Math.floor(first / size), Math.floor(last / size)];
  return wanted.every((page) => now.includes(page)) ? now : [...new Set([...now, ...wanted])];
}

/** Rows from the pages that have arrived, null where one has not. */
export function fromPages<R>(
  total: number,
  pages: ReadonlyMap<number, readonly R[]>,
  size = PAGE,
): (R | null)[] {
  const rows: (R | null)[] = new Array(total).fill(null);
  for (const [page, found] of pages)
    for (const [k, row] of found.entries())
      if (page * size + k < total) rows[page * size + k] = row;
  return rows;
}

/** How many rows are fetched at once. */
export const PAGE = 200;

/** The pages that hold the rows in sight, beside those there are already. */
export function withPages(now: readonly number[], first: number, last: number): readonly number[] {
  const wanted = [Math.floor(first / PAGE), Math.floor(last / PAGE)];
  return wanted.every((page) => now.includes(page)) ? now : [...new Set([...now, ...wanted])];
}

/** Rows from the pages that have arrived, null where one has not. */
export function fromPages<R>(
  total: number,
  pages: ReadonlyMap<number, readonly R[]>,
): (R | null)[] {
  const rows: (R | null)[] = new Array(total).fill(null);
  for (const [page, found] of pages)
    for (const [k, row] of found.entries())
      if (page * PAGE + k < total) rows[page * PAGE + k] = row;
  return rows;
}

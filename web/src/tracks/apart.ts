/**
 * Middles of labels of some heights, as near as can be to where they are wanted, none on another:
 * pushed down from the top, then up from the bottom.
 */
export function apart(
  wanted: readonly number[],
  heights: readonly number[],
  top: number,
  bottom: number,
): number[] {
  const order = wanted.map((_, k) => k).sort((a, b) => (wanted[a] ?? 0) - (wanted[b] ?? 0));
  const found = [...wanted];
  let edge = top;
  for (const k of order) {
    const half = (heights[k] ?? 0) / 2;
    found[k] = Math.max(wanted[k] ?? 0, edge + half);
    edge = (found[k] ?? 0) + half;
  }
  edge = bottom;
  for (const k of order.reverse()) {
    const half = (heights[k] ?? 0) / 2;
    found[k] = Math.min(found[k] ?? 0, edge - half);
    edge = (found[k] ?? 0) - half;
  }
  return found;
}

/**
 * A value moved by an arrow key, as its form rounds it: where rounding would leave it where it is, by
 * one unit of its last digit.
 */
export function nudged(
  at: number,
  by: number,
  decimals: number | null,
  rounded: (value: number) => number,
): number {
  const moved = rounded(at + by);
  if (moved !== at || decimals === null) return moved;
  return rounded(at + Math.sign(by) * 10 ** -decimals);
}

/** Keys with one of them moved to stand before another, or after all where there is none. */
export function movedBefore(order: readonly string[], key: string, before: string | null) {
  const others = order.filter((one) => one !== key);
  const at = before === null ? others.length : others.indexOf(before);
  return at < 0 ? [...order] : [...others.slice(0, at), key, ...others.slice(at)];
}

/** Keys with one of those that are shown moved past its neighbour among them, up or down. */
export function movedBy(
  order: readonly string[],
  shown: readonly string[],
  key: string,
  by: -1 | 1,
): string[] {
  const at = shown.indexOf(key);
  const neighbour = shown[at + by];
  if (at < 0 || neighbour === undefined) return [...order];
  if (by < 0) return movedBefore(order, key, neighbour);
  return movedBefore(order, key, order[order.indexOf(neighbour) + 1] ?? null);
}

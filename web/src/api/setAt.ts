/** A copy of a statement with one dotted path set; an empty path sets several fields at once. */
export function setAt<S extends object>(statement: S, field: string, value: unknown): S {
  if (field === "") return { ...statement, ...(value as Partial<S>) };
  return put(statement, field.split("."), value) as S;
}

function put(into: unknown, path: string[], value: unknown): unknown {
  const [key, ...rest] = path;
  if (key === undefined) return value;
  if (Array.isArray(into)) {
    const copy = [...into];
    copy[Number(key)] = put(copy[Number(key)], rest, value);
    return copy;
  }
  const holder = (into ?? {}) as Record<string, unknown>;
  return { ...holder, [key]: put(holder[key], rest, value) };
}

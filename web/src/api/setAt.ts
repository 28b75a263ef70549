/** Where something is put: a dotted path in a statement, or "" for several fields at once. */
export interface Put {
  field: string;
  value: unknown;
  /** It is added to the list that stands there, unless it is in it. */
  adds?: boolean;
}

/** A copy of a statement with one dotted path set; an empty path sets several fields at once. */
export function setAt<S extends object>(statement: S, { field, value, adds }: Put): S {
  if (field === "") return { ...statement, ...(value as Partial<S>) };
  return put(statement, field.split("."), (now) => (adds ? added(now, value) : value)) as S;
}

function added(list: unknown, value: unknown): unknown[] {
  const now = Array.isArray(list) ? list : [];
  const same = JSON.stringify(value);
  return now.some((one) => JSON.stringify(one) === same) ? now : [...now, value];
}

function put(into: unknown, path: string[], made: (now: unknown) => unknown): unknown {
  const [key, ...rest] = path;
  if (key === undefined) return made(into);
  if (Array.isArray(into)) {
    const copy = [...into];
    copy[Number(key)] = put(copy[Number(key)], rest, made);
    return copy;
  }
  const holder = (into ?? {}) as Record<string, unknown>;
  return { ...holder, [key]: put(holder[key], rest, made) };
}

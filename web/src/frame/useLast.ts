import { useRef } from "react";

/** The last result of what is shown, while the next is worked on. */
export function useLast<R>(of: string, fresh: R | null | undefined): R | undefined {
  const last = useRef<{ of: string; result: R } | null>(null);
  if (fresh) last.current = { of, result: fresh };
  return fresh ?? (last.current?.of === of ? last.current.result : undefined);
}

import { useSyncExternalStore } from "react";

/** A value that any part of the page may set and any may show. */
export function sharedValue<T>(start: T) {
  let now = start;
  const listeners = new Set<() => void>();
  return {
    set: (next: T): void => {
      now = next;
      for (const listener of listeners) listener();
    },
    use: (): T =>
      useSyncExternalStore(
        (listener) => {
          listeners.add(listener);
          return () => listeners.delete(listener);
        },
        () => now,
      ),
  };
}

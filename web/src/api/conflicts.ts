import { useSyncExternalStore } from "react";

/** A change that was refused because the study was changed meanwhile, until the user answers. */
export interface Conflict {
  changed: readonly string[];
  answer: (again: boolean) => void;
}

let open: Conflict | null = null;
const listeners = new Set<() => void>();

function show(conflict: Conflict | null): void {
  open = conflict;
  for (const listener of listeners) listener();
}

/** Ask whether to make the change again; what was changed meanwhile is shown. */
export function askAgain(changed: readonly string[]): Promise<boolean> {
  return new Promise((resolve) => {
    show({
      changed,
      answer: (again) => {
        show(null);
        resolve(again);
      },
    });
  });
}

export function useConflict(): Conflict | null {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => open,
  );
}

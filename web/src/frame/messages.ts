import { useSyncExternalStore } from "react";

/** Something that was done, said at the foot of the page; a deleted study can be brought back from it. */
export interface Message {
  words: string;
  restore?: string;
}

let shown: Message | null = null;
const listeners = new Set<() => void>();

export function said(message: Message | null): void {
  shown = message;
  for (const listener of listeners) listener();
}

export function useMessage(): Message | null {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => shown,
  );
}

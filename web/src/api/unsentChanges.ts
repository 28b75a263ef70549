import type { QueryClient } from "@tanstack/react-query";

/**
 * Ask before the page is left while a change still waits for its turn: it would be lost. One that has
 * been sent already is kept by the server whether the page is there or not.
 */
export function guardUnsentChanges(client: QueryClient): void {
  window.addEventListener("beforeunload", (leaving) => {
    const unsent = client.getMutationCache().find({ predicate: (change) => change.state.isPaused });
    if (unsent) leaving.preventDefault();
  });
}

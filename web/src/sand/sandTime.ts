import { useSyncExternalStore } from "react";

/** The sand line's time, one for each study: it follows from view to view and outlives a reload. */
const KEPT_UNDER = "hourglass.sand.";
const times = new Map<string, number | null>();
const listeners = new Set<() => void>();
let keeping = 0;

function read(study: string): number | null {
  if (!times.has(study)) {
    const kept = Number.parseFloat(localStorage.getItem(KEPT_UNDER + study) ?? "");
    times.set(study, Number.isFinite(kept) ? kept : null);
  }
  return times.get(study) ?? null;
}

export function setSandTime(study: string, t: number): void {
  times.set(study, t);
  for (const tell of listeners) tell();
  window.clearTimeout(keeping);
  keeping = window.setTimeout(() => localStorage.setItem(KEPT_UNDER + study, String(t)), 150);
}

function subscribe(tell: () => void): () => void {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

/** The time under the sand line; before anybody moved it, where the middle of follow-up is. */
export function useSandTime(study: string, end: number, start: number | null): number {
  const t = useSyncExternalStore(subscribe, () => read(study));
  return Math.min(t ?? start ?? end / 2, end);
}

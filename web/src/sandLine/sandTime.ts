import { useSyncExternalStore } from "react";

/**
 * The sand line's time, one for each study: it follows from view to view and outlives a reload. While
 * the pointer hovers over a figure, its time is read in the line's place.
 */
const KEPT_UNDER = "hourglass.sand.";
const times = new Map<string, number | null>();
const hovered = new Map<string, number>();
const listeners = new Set<() => void>();
let keeping = 0;

function read(study: string): number | null {
  if (!times.has(study)) {
    const kept = Number.parseFloat(localStorage.getItem(KEPT_UNDER + study) ?? "");
    times.set(study, Number.isFinite(kept) ? kept : null);
  }
  return times.get(study) ?? null;
}

function notifyAll(): void {
  for (const notify of listeners) notify();
}

export function setSandTime(study: string, t: number): void {
  times.set(study, t);
  notifyAll();
  window.clearTimeout(keeping);
  keeping = window.setTimeout(() => localStorage.setItem(KEPT_UNDER + study, String(t)), 150);
}

/** The time under the pointer; null when it has left. */
export function setHoveredTime(study: string, t: number | null): void {
  if (t === null) hovered.delete(study);
  else hovered.set(study, t);
  notifyAll();
}

function subscribe(notify: () => void): () => void {
  listeners.add(notify);
  return () => listeners.delete(notify);
}

/** The time under the sand line; before anybody moved it, where the middle of follow-up is. */
export function useSandTime(study: string, end: number, start: number | null): number {
  const t = useSyncExternalStore(subscribe, () => read(study));
  return Math.min(t ?? start ?? end / 2, end);
}

/** The time under the sand line as it is now. */
export function sandTimeNow(study: string, end: number, start: number | null): number {
  return Math.min(read(study) ?? start ?? end / 2, end);
}

/** The time under the pointer, if it is over a figure. */
export function useHoveredTime(study: string): number | null {
  return useSyncExternalStore(subscribe, () => hovered.get(study) ?? null);
}

/** The time that is read: under the pointer, else under the sand line. */
export function useReadTime(study: string, end: number, start: number | null): number {
  const sand = useSandTime(study, end, start);
  return Math.min(useHoveredTime(study) ?? sand, end);
}

import { useCallback, useSyncExternalStore } from "react";
import { type Extent, moved, whole, zoomed } from "./extent";

/** The part of the axis that is shown, one for each study and extent: figures beside each other share it. */
const kept = new Map<string, Extent>();
const listeners = new Set<() => void>();

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export interface Shown {
  extent: Extent;
  zoomed: boolean;
  zoom: (at: number, factor: number) => void;
  move: (by: number) => void;
  reset: () => void;
}

export function useWindow(study: string, low: number, high: number): Shown {
  const key = `${study} ${low} ${high}`;
  const limits: Extent = [low, high];
  const now = () => kept.get(key) ?? limits;
  const found = useSyncExternalStore(
    subscribe,
    useCallback(() => kept.get(key), [key]),
  );
  const set = (next: Extent) => {
    kept.set(key, next);
    for (const changed of listeners) changed();
  };
  const extent = found ?? limits;
  return {
    extent,
    zoomed: !whole(extent, limits),
    zoom: (at, factor) => set(zoomed(now(), at, factor, limits)),
    move: (by) => set(moved(now(), by, limits)),
    reset: () => set(limits),
  };
}

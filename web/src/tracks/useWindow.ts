import { useCallback, useEffect, useState } from "react";
import { type Extent, moved, whole, zoomed } from "./extent";

/** The part of the axis that is shown, one for each study and extent: it follows from view to view. */
const kept = new Map<string, Extent>();

export interface Shown {
  extent: Extent;
  zoomed: boolean;
  zoom: (at: number, factor: number) => void;
  move: (by: number) => void;
  reset: () => void;
}

export function useWindow(study: string, low: number, high: number): Shown {
  const key = `${study} ${low} ${high}`;
  const [extent, setExtent] = useState<Extent>(() => kept.get(key) ?? [low, high]);
  useEffect(() => setExtent(kept.get(key) ?? [low, high]), [key, low, high]);
  const change = useCallback(
    (next: (now: Extent) => Extent) =>
      setExtent((now) => {
        const made = next(now);
        kept.set(key, made);
        return made;
      }),
    [key],
  );
  const limits: Extent = [low, high];
  return {
    extent,
    zoomed: !whole(extent, limits),
    zoom: (at, factor) => change((now) => zoomed(now, at, factor, limits)),
    move: (by) => change((now) => moved(now, by, limits)),
    reset: () => change(() => limits),
  };
}

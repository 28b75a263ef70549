import { useCallback, useState } from "react";
import type { Track } from "../api/types";

/** Which tracks are shown, in which order and how tall: the user's, kept for each view. */
export interface Shown {
  id: string;
  height?: number;
}

const KEPT_UNDER = "hourglass.tracks.";

export interface TrackChoice {
  shown: Shown[];
  add: (id: string) => void;
  remove: (id: string) => void;
  move: (id: string, by: -1 | 1) => void;
  resize: (id: string, height: number) => void;
}

export function useTrackChoice(view: string, tracks: readonly Track[]): TrackChoice {
  const [kept, setKept] = useState<Shown[] | null>(() => readKept(view));
  const known = new Set(tracks.map((t) => t.id));
  const first = tracks.filter((track) => track.shown).map((track): Shown => ({ id: track.id }));
  const shown = (kept ?? first).filter((s) => known.has(s.id));
  const keep = useCallback(
    (next: Shown[]) => {
      setKept(next);
      localStorage.setItem(KEPT_UNDER + view, JSON.stringify(next));
    },
    [view],
  );
  return {
    shown,
    add: (id) => keep([...shown, { id }]),
    remove: (id) => keep(shown.filter((s) => s.id !== id)),
    move: (id, by) => keep(moved(shown, id, by)),
    resize: (id, height) => keep(shown.map((s) => (s.id === id ? { id, height } : s))),
  };
}

function moved(shown: Shown[], id: string, by: -1 | 1): Shown[] {
  const from = shown.findIndex((s) => s.id === id);
  const to = from + by;
  if (from < 0 || to < 0 || to >= shown.length) return shown;
  const next = [...shown];
  next.splice(to, 0, ...next.splice(from, 1));
  return next;
}

function readKept(view: string): Shown[] | null {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT_UNDER + view) ?? "null");
    return Array.isArray(kept) ? (kept as Shown[]) : null;
  } catch {
    return null;
  }
}

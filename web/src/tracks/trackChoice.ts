import { useState } from "react";
import { useSetTracks } from "../api/changes";
import { useStudy } from "../api/queries";
import type { Track } from "../api/types";

/** Which tracks are shown, in which order and how tall: decided for each view of a study. */
export interface Shown {
  id: string;
  height?: number | null;
}

export interface TrackChoice {
  shown: Shown[];
  add: (id: string) => void;
  remove: (id: string) => void;
  move: (id: string, by: -1 | 1) => void;
  resize: (id: string, height: number) => void;
}

export function useTrackChoice(study: string, view: string, tracks: readonly Track[]): TrackChoice {
  const kept = useStudy(study).data?.tracks[view];
  const set = useSetTracks(study, view);
  const known = new Set(tracks.map((t) => t.id));
  const first = tracks.filter((track) => track.shown).map((track): Shown => ({ id: track.id }));
  const [asked, setAsked] = useState<Shown[] | null>(null);
  const wanted: readonly Shown[] = asked ?? kept ?? first;
  const shown = wanted.filter((s) => known.has(s.id));
  const keep = (next: Shown[]) => {
    setAsked(next);
    set.mutate(next, { onSettled: () => setAsked(null) });
  };
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

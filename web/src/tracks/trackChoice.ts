import { useState } from "react";
import { useSetTracks } from "../api/changes";
import { useStudy } from "../api/queries";
import type { ShownTrack, Track } from "../api/types";

/** Which tracks are shown, in which order, how tall, on which axes: decided for each view of a study. */
export interface TrackChoice {
  shown: ShownTrack[];
  add: (id: string) => void;
  remove: (id: string) => void;
  move: (id: string, by: -1 | 1) => void;
  change: (id: string, part: Partial<ShownTrack>) => void;
}

export function useTrackChoice(study: string, view: string, tracks: readonly Track[]): TrackChoice {
  const kept = useStudy(study).data?.tracks[view];
  const set = useSetTracks(study, view);
  const known = new Set(tracks.map((t) => t.id));
  const first = tracks.filter((track) => track.shown).map((track) => shownAsIs(track.id));
  const [requested, setRequested] = useState<ShownTrack[] | null>(null);
  const wanted: readonly ShownTrack[] = requested ?? kept ?? first;
  const shown = wanted.filter((s) => known.has(s.id));
  const keep = (next: ShownTrack[]) => {
    setRequested(next);
    set.mutate(next, { onSettled: () => setRequested(null) });
  };
  return {
    shown,
    add: (id) => keep([...shown, shownAsIs(id)]),
    remove: (id) => keep(shown.filter((s) => s.id !== id)),
    move: (id, by) => keep(moved(shown, id, by)),
    change: (id, part) => keep(shown.map((s) => (s.id === id ? { ...s, ...part } : s))),
  };
}

function shownAsIs(id: string): ShownTrack {
  return { id, height: null, proportion: false, fitted: false, every: null, switched: [] };
}

function moved(shown: ShownTrack[], id: string, by: -1 | 1): ShownTrack[] {
  const from = shown.findIndex((s) => s.id === id);
  const to = from + by;
  if (from < 0 || to < 0 || to >= shown.length) return shown;
  const next = [...shown];
  next.splice(to, 0, ...next.splice(from, 1));
  return next;
}

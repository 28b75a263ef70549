import type { Track } from "../api/types";
import { shortened, widthOf, wrapped } from "./measure";

/** Where things stand in a figure, in pixels: one place, so that all tracks share one axis. */
export const LEFT = 132;
export const AXIS_HEIGHT = 46;
export const COUNT_ROW = 19;
export const HEAD = 22;
export const PAD = 12;
/** The room under a strip for a horizontal axis of its own. */
export const OWN_AXIS = 42;
/** What a track may be made smaller than by dragging its edge. */
export const LEAST_HEIGHT = 70;
/** Labels at the ends of curves. */
export const LABEL_GAP = 10;
export const LABEL_LETTERS = 24;
export const LABEL_LINES = 2;
export const LABEL_LINE = 15;
const LEAST_RIGHT = 26;
/** The share of the width that labels may take, however long they are. */
const MAX_LABELS = 0.3;

/** The room to the right of the strips: as wide as the labels that stand there. */
export function rightOf(tracks: readonly Track[], width: number): number {
  let widest = 0;
  for (const track of tracks) {
    for (const mark of track.marks)
      if (mark.kind === "line" && mark.named)
        for (const line of wrapped(mark.label, LABEL_LETTERS, LABEL_LINES))
          widest = Math.max(widest, widthOf(line, true));
    if (track.counts.length > 1)
      for (const row of track.counts)
        widest = Math.max(widest, widthOf(shortened(row.label, LABEL_LETTERS), true));
  }
  const wanted = widest ? widest + LABEL_GAP + 8 : LEAST_RIGHT;
  return Math.round(Math.min(wanted, MAX_LABELS * width));
}

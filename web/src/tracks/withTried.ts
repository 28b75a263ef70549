import type { Figure, Mark, Track, Trial } from "../api/types";

/** A figure with the tracks that are tried in the place of its own, and marks over some of them. */
export function withTried(figure: Figure, tried: Trial): Figure {
  return {
    ...figure,
    groups: tried.figure.groups,
    tracks: figure.tracks.map((own) => {
      const over = tried.over[own.id] ?? [];
      const other = tried.figure.tracks.find((track) => track.id === own.id);
      if (!own.drawn) return own;
      // What is not tried is that of the statement before, and steps back.
      if (!other && !over.length) return { ...own, marks: own.marks.map(asGhost) };
      const marks = other ? other.marks.filter((mark) => isShown(own, mark.part)) : own.marks;
      return { ...own, marks: [...marks, ...over], counts: other?.counts ?? own.counts };
    }),
  };
}

const asGhost = <M extends Mark>(mark: M): M => ({ ...mark, ghost: true });

/** Whether a track shows a part: it has it, and nobody has switched it off. */
function isShown(track: Track, part: string): boolean {
  return !part || track.parts.some((one) => one.id === part && one.shown);
}

import type { Figure, PrintSettings } from "../api/types";

/** A figure with the words that somebody has chosen for its axis and its tracks. */
export function withHeadings(figure: Figure, { across, titles }: PrintSettings): Figure {
  return {
    ...figure,
    across: { ...figure.across, label: across || figure.across.label },
    tracks: figure.tracks.map((track) => ({ ...track, title: titles[track.id] || track.title })),
  };
}

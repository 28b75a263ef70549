import type { Figure, FigureGroup, GroupStyle, Mark, Track } from "../api/types";

/** The ways in which a group can be drawn otherwise in a view. */
export type Way = "hidden" | "front" | "bare";

/** How each group of a figure is drawn in a view, by its own tone. */
type Styles = ReadonlyMap<number, GroupStyle>;

function stylesOf(groups: readonly FigureGroup[], styles: readonly GroupStyle[]): Styles {
  return new Map(
    groups.flatMap((group) => {
      const style = styles.find((one) => one.group === group.key);
      return style ? [[group.tone, style]] : [];
    }),
  );
}

/** The figure of a view with its groups as somebody wants them drawn. */
export function styled(figure: Figure, styles: readonly GroupStyle[], view: string): Figure {
  const own = stylesOf(figure.groups, styles);
  if (!own.size) return figure;
  return { ...figure, tracks: figure.tracks.map((track) => styledTrack(track, own, view)) };
}

/** The tones that somebody has chosen for a figure's groups, by their own. */
export function chosenTones(
  groups: readonly FigureGroup[],
  styles: readonly GroupStyle[],
): ReadonlyMap<number, number> {
  return new Map(
    [...stylesOf(groups, styles)].flatMap(([own, { tone }]) =>
      tone === null ? [] : [[own, tone]],
    ),
  );
}

/** The groups that a view does not show. */
export function hiddenGroups(
  groups: readonly FigureGroup[],
  styles: readonly GroupStyle[],
  view: string,
): FigureGroup[] {
  const own = stylesOf(groups, styles);
  return groups.filter((group) => own.get(group.tone)?.hidden.includes(view));
}

function styledTrack(track: Track, styles: Styles, view: string): Track {
  const is = (tone: number, way: Way) => styles.get(tone)?.[way].includes(view) ?? false;
  const toned = <T extends { tone: number }>(one: T): T => ({
    ...one,
    tone: styles.get(one.tone)?.tone ?? one.tone,
  });
  const marks = (all: readonly Mark[]): Mark[] => {
    const kept = all.filter(
      (mark) =>
        !is(mark.tone, "hidden") &&
        !((mark.kind === "area" || mark.kind === "bars") && is(mark.tone, "bare")),
    );
    const front = kept.filter((mark) => is(mark.tone, "front"));
    return [...kept.filter((mark) => !front.includes(mark)), ...front].map((mark) => ({
      ...toned(mark),
      dash: styles.get(mark.tone)?.dash ?? mark.dash,
    }));
  };
  return {
    ...track,
    panels: track.panels
      .filter((panel) => !is(panel.tone, "hidden"))
      .map((panel) => toned(track.grouped ? { ...panel, marks: marks(panel.marks) } : panel)),
    marks: track.grouped ? marks(track.marks) : track.marks,
    counts: track.grouped
      ? track.counts.filter((row) => !is(row.tone, "hidden")).map(toned)
      : track.counts,
  };
}

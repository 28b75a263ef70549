import { createContext, type ReactNode, useContext, useMemo } from "react";
import type { Figure, Track } from "../api/types";

const Context = createContext<readonly Figure[]>([]);

/** Figures that stand beside each other: each is drawn over the axes of all of them. */
export function CommonAxes({
  figures,
  children,
}: {
  figures: readonly Figure[];
  children: ReactNode;
}) {
  return <Context.Provider value={figures}>{children}</Context.Provider>;
}

/** A figure over the axes that it shares with those beside it, and their tracks; alone it is as it is. */
export function useCommonAxes(figure: Figure): { figure: Figure; beside: readonly Track[] } {
  const figures = useContext(Context);
  return useMemo(
    () => ({
      figure: withCommonAxes(figure, figures),
      beside: figures.filter((one) => one !== figure).flatMap((one) => one.tracks),
    }),
    [figure, figures],
  );
}

/** The longest horizontal axis, and for each track the widest vertical one of its kind. */
export function withCommonAxes(figure: Figure, figures: readonly Figure[]): Figure {
  const alike = figures.filter((one) => one.across.label === figure.across.label);
  if (alike.length < 2) return figure;
  const longest = alike.reduce((a, b) => (b.high > a.high ? b : a));
  const low = Math.min(...alike.map((one) => one.low));
  return {
    ...figure,
    low,
    high: longest.high,
    across: { ...longest.across, low: Math.min(low, longest.across.low) },
    tracks: figure.tracks.map((track) => withCommonAxis(track, alike)),
  };
}

function withCommonAxis(track: Track, figures: readonly Figure[]): Track {
  const own = track.axis;
  if (!own || own.form === "category") return track;
  const axes = figures.flatMap((one) =>
    one.tracks.flatMap((t) => (t.id === track.id && t.axis?.form === own.form ? [t.axis] : [])),
  );
  const widest = axes.reduce((a, b) => (b.high - b.low > a.high - a.low ? b : a), own);
  const low = Math.min(...axes.map((axis) => axis.low), own.low);
  const high = Math.max(...axes.map((axis) => axis.high), own.high);
  return { ...track, axis: { ...widest, label: own.label, low, high } };
}

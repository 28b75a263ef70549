import { useQueries } from "@tanstack/react-query";
import { fetchPrintSettings, type PrintedFigure } from "../api/drawings";
import { useStudy } from "../api/queries";
import type { StageLine } from "../api/types";

export interface OtherFigure {
  view: string;
  title: string;
  drawing: string;
}

/** The other views of a study that have a figure, and those chosen of them, with their own settings. */
export function useOtherFigures(study: string, view: string, beside: readonly string[]) {
  const stages = useStudy(study).data?.stages ?? [];
  const all = stages.flatMap(figuresOf);
  const views = all.filter((other) => other.view !== view && other.drawing);
  const chosen = views.filter((other) => beside.includes(other.view));
  const found = useQueries({
    queries: chosen.map(({ view: other, title, drawing }) => ({
      queryKey: ["study", study, "print settings", other, drawing],
      queryFn: async (): Promise<PrintedFigure> => ({
        drawing,
        settings: titled(await fetchPrintSettings(study, other), title),
      }),
    })),
  });
  return {
    views,
    figures: found.flatMap((query) => (query.data ? [query.data] : [])),
    /** What the figure of this view is called among several. */
    title: all.find((one) => one.view === view)?.title ?? "",
  };
}

/** The figures of a stage: of each of its views, where it has several. */
function figuresOf({ stage, title, drawing, analyses }: StageLine): OtherFigure[] {
  if (analyses.length < 2) return [{ view: stage, title, drawing }];
  return analyses.map((line) => ({
    view: line.view,
    title: line.title || `${title} ${line.letter}`,
    drawing: line.drawing,
  }));
}

/** Figures that stand together have titles: their own, else what their views are called. */
export function titled<S extends { title: string }>(settings: S, title: string): S {
  return settings.title ? settings : { ...settings, title };
}

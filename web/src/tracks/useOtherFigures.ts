import { useQueries } from "@tanstack/react-query";
import { fetchPrintSettings, type PrintedFigure } from "../api/drawings";
import { useStudy } from "../api/queries";

export interface OtherFigure {
  view: string;
  title: string;
  drawing: string;
}

/** The other views of a study that have a figure, and those chosen of them, with their own settings. */
export function useOtherFigures(study: string, view: string, beside: readonly string[]) {
  const stages = useStudy(study).data?.stages ?? [];
  const views: OtherFigure[] = stages
    .filter((line) => line.stage !== view && line.drawing)
    .map((line) => ({ view: line.stage, title: line.title, drawing: line.drawing }));
  const chosen = views.filter((other) => beside.includes(other.view));
  const found = useQueries({
    queries: chosen.map(({ view: other, drawing }) => ({
      queryKey: ["study", study, "print settings", other, drawing],
      queryFn: async (): Promise<PrintedFigure> => ({
        drawing,
        settings: await fetchPrintSettings(study, other),
      }),
    })),
  });
  return { views, figures: found.flatMap((query) => (query.data ? [query.data] : [])) };
}

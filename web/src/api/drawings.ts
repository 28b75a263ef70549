import { answered, api } from "./client";
import type { FileForm, PrintSettings } from "./types";

interface Part {
  low: number;
  high: number;
  columns: number;
  tracks: string[];
  proportion: string[];
  fitted: string[];
  switched: string[];
  every: number | null;
}

const path = (study: string, drawing: string) => ({ study_id: study, drawing });

/** Some tracks of a figure over a part of its axis. */
export function fetchDrawn(study: string, drawing: string, part: Part) {
  return answered(
    api.GET("/api/studies/{study_id}/drawings/{drawing}/figure", {
      params: { path: path(study, drawing), query: part },
    }),
  );
}

interface TableQuery {
  which: number;
  tracks: string[];
}

/** Some rows of one of the tables behind a figure. */
export function fetchFigureTable(
  study: string,
  drawing: string,
  requested: TableQuery & { first: number; most: number },
) {
  return answered(
    api.GET("/api/studies/{study_id}/drawings/{drawing}/table", {
      params: { path: path(study, drawing), query: requested },
    }),
  );
}

/** Where a whole table can be saved from. */
export function figureTableFile(study: string, drawing: string, requested: TableQuery): string {
  const query = new URLSearchParams([
    ["which", String(requested.which)],
    ...requested.tracks.map((id) => ["tracks", id]),
  ]);
  return `/api/studies/${study}/drawings/${drawing}/table.csv?${query}`;
}

/** How the figure of a view is drawn and printed. */
export function fetchPrintSettings(study: string, view: string) {
  return answered(
    api.GET("/api/studies/{study_id}/figures/{view}", {
      params: { path: { study_id: study, view } },
    }),
  );
}

/** As they are now, whatever was fetched before: they are what a dialog starts from. */
export const printSettingsQuery = (study: string, view: string) => ({
  queryKey: ["study", study, "print settings", view],
  queryFn: () => fetchPrintSettings(study, view),
  staleTime: 0,
  gcTime: 0,
});

export interface PrintedFigure {
  drawing: string;
  settings: PrintSettings;
}

/** Figures printed as one file. */
export function printFigures(
  study: string,
  form: FileForm,
  figures: readonly PrintedFigure[],
  across: number,
): Promise<Blob> {
  return answered(
    api.POST("/api/studies/{study_id}/figures", {
      params: { path: { study_id: study } },
      body: { form, figures: [...figures], across },
      parseAs: "blob",
    }),
  ) as Promise<Blob>;
}

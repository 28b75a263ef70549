import { answered, api } from "./client";
import { PAGE } from "./pages";
import type { Work, WorkingsPage } from "./types";

interface Requested {
  stage: string;
  /** The view whose figure it is; null for the first of its stage. */
  analysis: number | null;
  figure: string;
  about: Record<string, unknown>;
}

/** The column that terms are sorted by. */
export interface TermOrder {
  by: number;
  descending: boolean;
}

/** A page of the terms of a figure's workings, or the work that will bring them. */
export function fetchWorkings(
  study: string,
  requested: Requested,
  first: number,
  order: TermOrder | null,
) {
  const address = `/api/studies/{study_id}/${requested.stage}/workings/${requested.figure}`;
  const query = { ...viewed(requested), ...order, first, most: PAGE };
  return answered(
    api.GET(address as "/api/studies/{study_id}/estimate/workings/table", {
      params: { path: { study_id: study }, query },
    }),
  ) as Promise<{ result?: WorkingsPage | null; work?: Work | null }>;
}

/** Where all terms can be saved from, at full precision. */
export function workingsFile(study: string, requested: Requested, order: TermOrder | null): string {
  const query = new URLSearchParams(
    Object.entries({ ...viewed(requested), ...order }).map(([key, value]) => [key, String(value)]),
  );
  return `/api/studies/${study}/${requested.stage}/workings/${requested.figure}.csv?${query}`;
}

function viewed({ about, analysis }: Requested): Record<string, unknown> {
  return analysis ? { ...about, analysis } : about;
}

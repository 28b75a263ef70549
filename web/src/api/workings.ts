import { answered, api } from "./client";
import { PAGE } from "./pages";
import type { Work, WorkingsPage } from "./types";

interface Asked {
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
export function fetchWorkings(study: string, asked: Asked, first: number, order: TermOrder | null) {
  const address = `/api/studies/{study_id}/${asked.stage}/workings/${asked.figure}`;
  const query = { ...viewed(asked), ...order, first, most: PAGE };
  return answered(
    api.GET(address as "/api/studies/{study_id}/estimate/workings/table", {
      params: { path: { study_id: study }, query },
    }),
  ) as Promise<{ result?: WorkingsPage | null; work?: Work | null }>;
}

/** Where all terms can be saved from, at full precision. */
export function workingsFile(study: string, asked: Asked, order: TermOrder | null): string {
  const query = new URLSearchParams(
    Object.entries({ ...viewed(asked), ...order }).map(([key, value]) => [key, String(value)]),
  );
  return `/api/studies/${study}/${asked.stage}/workings/${asked.figure}.csv?${query}`;
}

function viewed({ about, analysis }: Asked): Record<string, unknown> {
  return analysis ? { ...about, analysis } : about;
}

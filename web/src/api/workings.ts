import { answered, api } from "./client";
import { PAGE } from "./pages";
import type { Work, WorkingsPage } from "./types";

interface Asked {
  stage: string;
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
  const query = { ...asked.about, ...order, first, most: PAGE };
  return answered(
    api.GET(address as "/api/studies/{study_id}/estimate/workings/table", {
      params: { path: { study_id: study }, query },
    }),
  ) as Promise<{ result?: WorkingsPage | null; work?: Work | null }>;
}

/** Where all terms can be saved from, at full precision. */
export function workingsFile(study: string, asked: Asked, order: TermOrder | null): string {
  const query = new URLSearchParams(
    Object.entries({ ...asked.about, ...order }).map(([key, value]) => [key, String(value)]),
  );
  return `/api/studies/${study}/${asked.stage}/workings/${asked.figure}.csv?${query}`;
}

import { answered, api } from "./client";
import { PAGE } from "./pages";
import type { Work, WorkingsPage } from "./types";

interface Asked {
  stage: string;
  figure: string;
  about: Record<string, unknown>;
}

/** A page of the terms of a figure's workings, or the work that will bring them. */
export function fetchWorkings(study: string, asked: Asked, first: number) {
  const address = `/api/studies/{study_id}/${asked.stage}/workings/${asked.figure}`;
  const query = { ...asked.about, first, most: PAGE };
  return answered(
    api.GET(address as "/api/studies/{study_id}/estimate/workings/table", {
      params: { path: { study_id: study }, query },
    }),
  ) as Promise<{ result?: WorkingsPage | null; work?: Work | null }>;
}

/** Where all terms can be saved from, at full precision. */
export function workingsFile(study: string, asked: Asked): string {
  const query = new URLSearchParams(
    Object.entries(asked.about).map(([key, value]) => [key, String(value)]),
  );
  return `/api/studies/${study}/${asked.stage}/workings/${asked.figure}.csv?${query}`;
}

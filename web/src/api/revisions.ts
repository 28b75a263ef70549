import type { QueryClient } from "@tanstack/react-query";

/**
 * Which revision of a study the page shows: the oldest of what is on it. A revision that the page has
 * itself made another of counts as that other.
 */
const made = new Map<number, number>();
/** The first revision of each study that the page itself began: the list may not hold it yet. */
const begun = new Map<string, number>();
let client: QueryClient | null = null;

export function watchRevisions(shown: QueryClient): void {
  client = shown;
}

/** The revision a reply was made for, if it holds one. */
export function revisionOf(data: unknown): number | undefined {
  const revision = (data as { revision?: unknown } | undefined)?.revision;
  return typeof revision === "number" ? revision : undefined;
}

interface Listed {
  studies: readonly { id: string; revision: number }[];
}

/**
 * What a change to the study is made from, as a header states it: what is shown of it, else what the
 * list of studies shows, else the one it was begun with; * where nothing is.
 */
export function madeFrom(study: string): string {
  const shown = client?.getQueryCache().findAll({ queryKey: ["study", study], type: "active" });
  const revisions = (shown ?? [])
    .map((query) => revisionOf(query.state.data))
    .filter((revision) => revision !== undefined)
    .map(followed);
  const listed = client?.getQueryData<Listed>(["studies"])?.studies.find((s) => s.id === study);
  const known = listed?.revision ?? begun.get(study);
  if (!revisions.length && known) revisions.push(followed(known));
  return revisions.length ? `"${Math.min(...revisions)}"` : "*";
}

/**
 * Record that the page has made one revision of another, from what a reply states about it. Where others have
 * decided something between the two, what is shown is still of the older one.
 */
export function recordMade(
  from: string | null,
  reply: { get: (name: string) => string | null },
): void {
  if (!reply.get("X-Decided-Meanwhile")) recordSeen(from, reply.get("ETag"));
}

/** Record with which revision the page began a study. */
export function recordBegun(study: { id: string; revision: number }): void {
  begun.set(study.id, study.revision);
}

/** Record that whoever has seen one revision knows what another holds; both as headers state them. */
export function recordSeen(from: string | null, to: string | null): void {
  const [before, after] = [from, to].map((etag) => Number(etag?.replaceAll('"', "")));
  if (before && after && after > before) made.set(before, after);
}

function followed(revision: number): number {
  let now = revision;
  for (let next = made.get(now); next !== undefined; next = made.get(now)) now = next;
  return now;
}

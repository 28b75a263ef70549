import createClient from "openapi-fetch";
import { madeFrom, recordMade } from "./revisions";
import type { paths } from "./schema";
import type { Problem } from "./types";

export const api = createClient<paths>({ baseUrl: "" });

const OF_A_STUDY = /\/api\/studies\/([^/?]+)/;

/** Every change states which revision of the study it was made from, and learns which it made. */
api.use({
  onRequest({ request }) {
    const study = OF_A_STUDY.exec(request.url)?.[1];
    if (study && request.method !== "GET") request.headers.set("If-Match", madeFrom(study));
    return request;
  },
  onResponse({ request, response }) {
    if (request.method !== "GET" && response.ok)
      recordMade(request.headers.get("If-Match"), response.headers);
  },
});

/** A refusal of the server, or that it does not answer, in a sentence for the user. */
export class Refusal extends Error {
  readonly kind: string;
  /** What was changed meanwhile, where a change was made from an older revision. */
  readonly changed: readonly string[] | undefined;
  /** The revision that the study has since then. */
  readonly revision: number | undefined;

  constructor(problem: Partial<Problem> & { changed?: string[]; revision?: number }) {
    super(problem.detail ?? "The server did not answer as expected.");
    this.kind = problem.type ?? "urn:hourglass:unknown";
    this.changed = problem.changed;
    this.revision = problem.revision;
  }
}

const AWAY: Partial<Problem> = {
  type: "urn:hourglass:server-away",
  detail:
    "Olden Hourglass does not answer. What was saved is safe: see whether it is still running, then try again.",
};

/** The data of a response, or a Refusal with the server's own words. */
export async function answered<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let answer: Awaited<typeof call>;
  try {
    answer = await call;
  } catch {
    throw new Refusal(AWAY);
  }
  if (answer.error !== undefined || !answer.response.ok)
    throw new Refusal((answer.error ?? {}) as Partial<Problem>);
  return answer.data as T;
}

/** Send a file as it is, showing how far it has got; abort with the signal. */
export function sendFile(
  study: string,
  where: string,
  file: File,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("PUT", `/api/studies/${study}/${where}?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    const from = madeFrom(study);
    request.setRequestHeader("If-Match", from);
    request.upload.onprogress = (event) => progress(event.loaded / Math.max(event.total, 1));
    request.onload = () => {
      if (request.status < 300) {
        recordMade(from, { get: (name) => request.getResponseHeader(name) });
        resolve();
      } else reject(new Refusal(JSON.parse(request.responseText) as Problem));
    };
    request.onerror = () => reject(new Refusal(AWAY));
    request.onabort = () =>
      reject(new Refusal({ detail: "The upload was cancelled. Nothing was kept." }));
    signal.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}

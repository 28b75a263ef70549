/** A request that a stand-in for the server received. */
export interface Requested {
  method: string;
  /** With its query. */
  path: string;
  body: unknown;
  headers: Headers;
}

type Answer = (requested: Requested) => unknown;

let answers: Record<string, Answer> = {};
let heard: Requested[] = [];

/**
 * Stand in for the server: it answers by method and path, with a response or with what is to be its
 * JSON, and keeps the requests.
 */
export function serverThat(given: Record<string, Answer>): Requested[] {
  answers = given;
  heard = [];
  return heard;
}

export async function answer(input: RequestInfo | URL, init?: RequestInit): Promise<Response> {
  const request = new Request(input, init);
  const text = await request.clone().text();
  const { pathname, search } = new URL(request.url);
  const requested = {
    method: request.method,
    path: pathname + search,
    body: text ? JSON.parse(text) : undefined,
    headers: request.headers,
  };
  heard.push(requested);
  const found = answers[`${requested.method} ${pathname}`]?.(requested);
  if (found === undefined) return new Response("{}", { status: 404 });
  return found instanceof Response ? found : Response.json(found);
}

/** A request may name an address without its host, as it may on a page. */
export class RequestOnAPage extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, "http://localhost") : input, init);
  }
}

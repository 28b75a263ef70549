import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { describe, expect, test } from "vitest";
import { serverThat } from "../testing/server";
import { answered, api, Refusal } from "./client";
import { recordBegun, recordSeen, watchRevisions } from "./revisions";

const rename = (study: string) =>
  answered(
    api.PATCH("/api/studies/{study_id}", {
      params: { path: { study_id: study } },
      body: { name: "Valves" },
    }),
  );

function showing(revisions: Record<string, number>): QueryClient {
  const client = new QueryClient();
  for (const [key, revision] of Object.entries(revisions)) {
    const queryKey = ["study", key.charAt(0), key];
    client.setQueryData(queryKey, { revision });
    new QueryObserver(client, { queryKey, staleTime: Number.POSITIVE_INFINITY }).subscribe(
      () => undefined,
    );
  }
  watchRevisions(client);
  return client;
}

describe("a change states which revision it was made from", () => {
  test("the oldest of what the page shows of that study", async () => {
    showing({ "a overview": 31, "a stage": 30, "b overview": 2 });
    const heard = serverThat({ "PATCH /api/studies/a": () => ({}) });
    await rename("a");
    expect(heard[0]?.headers.get("If-Match")).toBe('"30"');
  });
  test("any, where nothing of it is shown; and none when only asking", async () => {
    showing({});
    const heard = serverThat({
      "PATCH /api/studies/a": () => ({}),
      "GET /api/studies": () => ({ studies: [] }),
    });
    await rename("a");
    await answered(api.GET("/api/studies"));
    expect(heard.map((requested) => requested.headers.get("If-Match"))).toEqual(["*", null]);
  });
  test("that of the list, where only the list shows the study", async () => {
    const client = showing({});
    client.setQueryData(["studies"], { studies: [{ id: "d", revision: 7 }] });
    const heard = serverThat({ "PATCH /api/studies/d": () => ({}) });
    await rename("d");
    expect(heard[0]?.headers.get("If-Match")).toBe('"7"');
  });
  test("that with which the page began it, where the list does not hold it yet", async () => {
    showing({});
    recordBegun({ id: "f", revision: 3 });
    const heard = serverThat({ "PATCH /api/studies/f": () => ({}) });
    await rename("f");
    expect(heard[0]?.headers.get("If-Match")).toBe('"3"');
  });
  test("a revision that the page made itself counts as the one it was made of", async () => {
    showing({ "c overview": 40 });
    const heard = serverThat({
      "PATCH /api/studies/c": () => new Response("{}", { headers: { ETag: '"41"' } }),
    });
    await rename("c");
    await rename("c");
    recordSeen('"41"', '"44"');
    recordSeen('"44"', '"43"'); // an older answer that came late makes nothing of it
    await rename("c");
    expect(heard.map((requested) => requested.headers.get("If-Match"))).toEqual([
      '"40"',
      '"41"',
      '"44"',
    ]);
  });
});

test("what others decided in between has not been seen by having decided beside it", async () => {
  showing({ "e overview": 50 });
  const headers = { ETag: '"52"', "X-Decided-Meanwhile": "1" };
  const heard = serverThat({ "PATCH /api/studies/e": () => new Response("{}", { headers }) });
  await rename("e");
  await rename("e");
  expect(heard.map((requested) => requested.headers.get("If-Match"))).toEqual(['"50"', '"50"']);
});

describe("what goes wrong is a sentence", () => {
  const refusal = async (answer: () => Response) => {
    serverThat({ "PATCH /api/studies/a": answer });
    return rename("a").catch((error: unknown) => error as Refusal);
  };
  test("the server's own", async () => {
    const problem = { type: "urn:hourglass:stale", detail: "It was changed.", changed: ["A step"] };
    const found = await refusal(() => Response.json(problem, { status: 412 }));
    expect(found).toBeInstanceOf(Refusal);
    expect(found).toMatchObject({
      message: "It was changed.",
      kind: "urn:hourglass:stale",
      changed: ["A step"],
    });
  });
  test("one of our own for an answer without a message", async () => {
    const found = await refusal(() => Response.json({}, { status: 500 }));
    expect(found).toMatchObject({ message: "The server did not answer as expected." });
  });
  test("and where nobody answers, what was saved is stated to be safe", async () => {
    const found = await refusal(() => {
      throw new TypeError("fetch failed");
    });
    expect(found).toMatchObject({ kind: "urn:hourglass:server-away" });
    expect((found as Refusal).message).toContain("What was saved is safe");
  });
});

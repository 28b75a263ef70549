// @vitest-environment jsdom
import { QueryObserver } from "@tanstack/react-query";
import { screen, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";
import { watchRevisions } from "../api/revisions";
import type { Choices } from "../api/types";
import { shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { ChangedMeanwhile } from "./ChangedMeanwhile";
import { ChoiceStrip } from "./ChoiceStrip";

const act = (label: string, terms: string[], of: object = {}) => ({
  label,
  question: "",
  field: "",
  statement: { stage: "model", version: 4, terms },
  ...of,
});

const CHOICES = {
  label: "Kept models",
  items: [
    {
      key: "A",
      words: "drops",
      mark: "planned",
      chosen: true,
      acts: [],
      opens: act("A", ["drops"]),
    },
    {
      key: "B",
      words: "drops, age",
      chosen: false,
      opens: act("B", ["drops", "age"]),
      acts: [act("Drop it", [], { question: "Why?", field: "kept.1.note" })],
    },
  ],
  offers: [act("Keep this model", ["kept"])],
} as unknown as Choices;

const PUT = "PUT /api/studies/s/statement";

test("a choice puts the statement that it comes with", async () => {
  const heard = serverThat({ [PUT]: () => new Response(null, { status: 204 }) });
  const { user } = shown(<ChoiceStrip study="s" choices={CHOICES} />);
  expect(screen.getByText("drops").closest("button")?.getAttribute("aria-current")).toBe("true");
  await user.click(screen.getByText("drops, age"));
  await waitFor(() => expect(heard).toHaveLength(1));
  expect(heard[0]?.body).toMatchObject({ terms: ["drops", "age"] });
});

test("what question why puts the answer where it belongs", async () => {
  const heard = serverThat({ [PUT]: () => new Response(null, { status: 204 }) });
  const { user } = shown(<ChoiceStrip study="s" choices={CHOICES} />);
  await user.click(screen.getByRole("button", { name: "More for B: drops, age" }));
  await user.click(screen.getByRole("menuitem", { name: "Drop it" }));
  await user.type(screen.getByLabelText("Why?"), " age tells nothing ");
  await user.click(screen.getByRole("button", { name: "Apply" }));
  await waitFor(() => expect(heard).toHaveLength(1));
  expect(heard[0]?.body).toMatchObject({ kept: { 1: { note: "age tells nothing" } } });
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
});

test("a refusal stands where the change was made", async () => {
  serverThat({ [PUT]: () => Response.json({ detail: "No such model." }, { status: 422 }) });
  const { user } = shown(<ChoiceStrip study="s" choices={CHOICES} />);
  await user.click(screen.getByRole("button", { name: "More for B: drops, age" }));
  await user.click(screen.getByRole("menuitem", { name: "Drop it" }));
  await user.click(screen.getByRole("button", { name: "Apply" }));
  expect((await screen.findByRole("alert")).textContent).toBe("No such model.");
});

test.each([
  ["Make my change again", 2],
  ["Leave my change", 1],
])("of a change made from an older state the user says: %s", async (answer, times) => {
  const stale = {
    type: "urn:hourglass:stale",
    detail: "Changed.",
    changed: ["A row was set aside"],
  };
  let requested = 0;
  serverThat({
    [PUT]: () => {
      requested += 1;
      return requested === 1
        ? Response.json(stale, { status: 412 })
        : new Response(null, { status: 204 });
    },
  });
  const { user } = shown(
    <>
      <ChoiceStrip study="s" choices={CHOICES} />
      <ChangedMeanwhile />
    </>,
  );
  await user.click(screen.getByRole("button", { name: "Keep this model" }));
  await screen.findByText("A row was set aside");
  await user.click(screen.getByRole("button", { name: answer }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  await waitFor(() => expect(requested).toBe(times));
});

test("a change that is made again is made from what the user was shown, though a part lags behind", async () => {
  const stale = {
    type: "urn:hourglass:stale",
    detail: "Changed.",
    changed: ["A step"],
    revision: 5,
  };
  const heard = serverThat({
    [PUT]: ({ headers }) =>
      headers.get("If-Match") === '"5"'
        ? new Response(null, { status: 204 })
        : Response.json(stale, { status: 412 }),
  });
  const { user, client } = shown(
    <>
      <ChoiceStrip study="s" choices={CHOICES} />
      <ChangedMeanwhile />
    </>,
  );
  const queryKey = ["study", "s", "part", "model", "terms"];
  client.setQueryData(queryKey, { revision: 3 });
  new QueryObserver(client, { queryKey, staleTime: Number.POSITIVE_INFINITY }).subscribe(
    () => undefined,
  );
  watchRevisions(client);
  await user.click(screen.getByRole("button", { name: "Keep this model" }));
  await user.click(await screen.findByRole("button", { name: "Make my change again" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  await waitFor(() => expect(heard).toHaveLength(2));
});

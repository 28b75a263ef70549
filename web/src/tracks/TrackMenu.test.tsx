// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import { expect, test } from "vitest";
import type { ShownTrack, Track } from "../api/types";
import { shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { LEAST_HEIGHT } from "./layout";
import { TrackMenu } from "./TrackMenu";
import { useTrackChoice } from "./trackChoice";

const track = (id: string, title: string, on: boolean): Track =>
  ({ id, title, shown: on, counts: [], axis: { form: "percent" }, parts: [] }) as unknown as Track;

const TRACKS = [
  track("survival", "Free of the event", true),
  track("hazard", "Hazard", true),
  track("risk", "At risk", false),
];

function Menu() {
  const choice = useTrackChoice("s", "estimate", TRACKS);
  return <TrackMenu tracks={TRACKS} choice={choice} heightOf={() => 90} />;
}

/** A study that keeps the tracks it is sent. */
async function menu(kept: Partial<ShownTrack>[] | undefined) {
  let tracks: unknown = kept;
  const heard = serverThat({
    "GET /api/studies/s": () => ({ revision: 1, tracks: tracks ? { estimate: tracks } : {} }),
    "PUT /api/studies/s/tracks/estimate": ({ body }) => {
      tracks = body;
      return new Response(null, { status: 204 });
    },
  });
  const { user } = shown(<Menu />);
  await waitFor(() => expect(heard.length).toBeGreaterThan(0));
  await user.click(screen.getByRole("button", { name: "Add track" }));
  const dialog = within(screen.getByRole("dialog", { name: "Tracks" }));
  const sent = () =>
    heard.filter((requested) => requested.method === "PUT").at(-1)?.body as ShownTrack[];
  return { user, dialog, sent };
}

const ids = (tracks: ShownTrack[] | undefined) => tracks?.map((one) => one.id);

test("tracks are added, taken away and moved; what the study kept is forgotten where it is gone", async () => {
  const { user, dialog, sent } = await menu([{ id: "gone" }, { id: "hazard" }]);
  await waitFor(() =>
    expect(dialog.getByLabelText<HTMLInputElement>("Free of the event").checked).toBe(false),
  );
  await user.click(dialog.getByLabelText("At risk"));
  await waitFor(() => expect(ids(sent())).toEqual(["hazard", "risk"]));
  await user.click(dialog.getByRole("button", { name: "Move At risk up" }));
  await waitFor(() => expect(ids(sent())).toEqual(["risk", "hazard"]));
  await user.click(dialog.getByLabelText("Hazard"));
  await waitFor(() => expect(ids(sent())).toEqual(["risk"]));
});

test("a track grows, shrinks no further than can be read, and shows proportions", async () => {
  const { user, dialog, sent } = await menu(undefined);
  const own = () => sent()?.find((one) => one.id === "survival");
  await user.click(dialog.getByRole("button", { name: "Make Free of the event taller" }));
  await waitFor(() => expect(own()?.height).toBe(120));
  await user.click(dialog.getByRole("button", { name: "Make Free of the event lower" }));
  await waitFor(() => expect(own()?.height).toBe(LEAST_HEIGHT));
  await user.click(dialog.getAllByLabelText("As proportions")[0] as HTMLElement);
  await waitFor(() => expect(own()?.proportion).toBe(true));
  expect(own()?.height).toBe(LEAST_HEIGHT);
});

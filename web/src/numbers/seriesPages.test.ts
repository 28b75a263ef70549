import { expect, test, vi } from "vitest";
import type { Series } from "../api/types";
import { serverThat } from "../testing/server";
import { seriesPages } from "./seriesPages";

let drawn = 0;

/** Pages of a drawing of their own, on a server that holds these. */
function pagesOf(held: Record<string, number[]>) {
  drawn += 1;
  const place = `/api/studies/s/drawings/d${drawn}/series/`;
  const answer = (name: string) => () => {
    const values = held[name];
    return values
      ? new Response(new Float64Array(values).buffer)
      : new Response("", { status: 503 });
  };
  const names = ["1/0", "1/1", "2/0", "3/0", "7/0"];
  const heard = serverThat(
    Object.fromEntries(names.map((name) => [`GET ${place}${name}`, answer(name)])),
  );
  const requested = () => heard.map((one) => one.path.replace(place, ""));
  return { pages: seriesPages("s", `d${drawn}`), requested };
}

const series = (key: number, pages: number, length = 4): Series =>
  ({ key, length, columns: [[]], pages: Array(pages).fill(0) }) as unknown as Series;

test("a page is requested once, and whoever looked for it is notified when it has come", async () => {
  const { pages, requested } = pagesOf({ "7/0": [1, 2, 0.5, 0.25] });
  const shown = vi.fn();
  pages.subscribe(shown);
  expect(pages.pageOf(series(7, 1), 0)).toBeUndefined();
  expect(pages.pageOf(series(7, 1), 0)).toBeUndefined();
  await pages.load(series(7, 1), 0);
  expect(requested()).toEqual(["7/0"]);
  expect(shown).toHaveBeenCalledOnce();
  const found = pages.pageOf(series(7, 1), 0);
  expect(Array.from(found?.time ?? [])).toEqual([1, 2]);
  expect(Array.from(found?.columns[0] ?? [])).toEqual([0.5, 0.25]);
});

test("what was loaded ahead of need notifies nobody", async () => {
  const { pages, requested } = pagesOf({ "1/0": [1, 1], "1/1": [2, 1], "2/0": [1, 0] });
  const shown = vi.fn();
  pages.subscribe(shown);
  await pages.loadAhead([series(1, 2), series(2, 1)], new AbortController().signal);
  expect(requested().sort()).toEqual(["1/0", "1/1", "2/0"]);
  expect(shown).not.toHaveBeenCalled();
  expect(pages.pageOf(series(1, 2), 1)).toBeDefined();
});

test("nothing is loaded ahead once stopped, or when it would not fit", async () => {
  const { pages, requested } = pagesOf({});
  const stop = new AbortController();
  stop.abort();
  await pages.loadAhead([series(1, 3)], stop.signal);
  await pages.loadAhead([series(1, 3, 20e6)], new AbortController().signal);
  expect(requested()).toEqual([]);
});

test("a page that could not be had is requested again", async () => {
  const held: Record<string, number[]> = {};
  const { pages, requested } = pagesOf(held);
  await pages.load(series(3, 1), 0);
  held["3/0"] = [1, 1];
  await pages.load(series(3, 1), 0);
  expect(requested()).toEqual(["3/0", "3/0"]);
  expect(pages.pageOf(series(3, 1), 0)).toBeDefined();
});

test("a drawing has one set of pages, of the last three drawings", () => {
  const first = seriesPages("s", "one");
  expect(seriesPages("s", "one")).toBe(first);
  for (const name of ["two", "three", "four"]) seriesPages("s", name);
  expect(seriesPages("s", "one")).not.toBe(first);
});

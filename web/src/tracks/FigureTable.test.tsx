// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { FigureTable } from "./FigureTable";

const TABLE = "/api/studies/s/drawings/d/table";

test("the table behind a figure is copied with tabs between, saved with commas", async () => {
  const heard = serverThat({
    [`GET ${TABLE}`]: () => ({
      titles: ["At the event times"],
      heads: ["months", "Survival: a, b"],
      first: 0,
      total: 0,
      rows: [],
    }),
    [`GET ${TABLE}.csv`]: () => new Response('months\tsurvival\r\n1\t"a, b"\r\n'),
  });
  const requested = { study: "s", drawing: "d", name: "Curves", tracks: ["survival"] };
  const { user } = shown(<FigureTable {...requested} onClose={vi.fn()} />);
  const file = screen.getByRole("link", { name: "Save as CSV" }).getAttribute("href");
  expect(file).toBe(`${TABLE}.csv?which=0&tracks=survival`);
  await user.click(screen.getByRole("button", { name: "Copy" }));
  expect(await navigator.clipboard.readText()).toBe('months\tsurvival\n1\t"a, b"');
  expect(heard.at(-1)?.path).toBe(`${file}&between=tabs`);
});

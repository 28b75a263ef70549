// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { expect, test, vi } from "vitest";
import { Place, shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { StudyListPage } from "./StudyListPage";

const study = (name: string, of: object = {}) => ({
  id: name.toLowerCase(),
  name,
  rows: null,
  file_name: null,
  results: [],
  thumbnail: null,
  ...of,
});

const STUDIES = ["Valves", "Lamps", "Grafts", "Pumps"].map((name) => study(name));

async function list(answers: Parameters<typeof serverThat>[0] = {}) {
  const result = {
    stage: "estimate",
    title: "Estimate",
    headline: "median 21 months",
    current: false,
  };
  const tallies = study("Tallies", { rows: 12345, file_name: "may.csv", results: [result] });
  const heard = serverThat({
    "GET /api/studies": () => ({ studies: [...STUDIES, tallies], demos: [] }),
    ...answers,
  });
  const found = shown(
    <MemoryRouter>
      <StudyListPage onTheme={vi.fn()} />
      <Place />
    </MemoryRouter>,
  );
  await screen.findByRole("link", { name: "Valves" });
  return { ...found, heard };
}

const names = () => screen.queryAllByRole("link").map((link) => link.textContent);

test("studies are found by their name or their file, with what was last seen of them", async () => {
  const { user } = await list();
  expect(screen.getByText("may.csv, 12 345 rows")).toBeTruthy();
  expect(screen.getByText("Estimate: median 21 months, before the last change")).toBeTruthy();
  const box = screen.getByLabelText("Search by name or file");
  await user.type(box, "MAY");
  expect(names()).toEqual(["Tallies"]);
  await user.type(box, " 2");
  expect(names()).toEqual([]);
  expect(screen.getByText("No study is called so, nor its file.")).toBeTruthy();
});

test("a study is begun under its name, without what stands around it", async () => {
  const { user, heard } = await list({
    "POST /api/studies": () => Response.json({ id: "new" }, { status: 201 }),
  });
  const begin = screen.getByRole<HTMLButtonElement>("button", { name: "Begin" });
  await user.type(screen.getByLabelText("Name of the study"), "  ");
  expect(begin.disabled).toBe(true);
  await user.type(screen.getByLabelText("Name of the study"), "Seals ");
  await user.click(begin);
  await screen.findByText("/studies/new/prepare");
  expect(heard.find((requested) => requested.method === "POST")?.body).toEqual({ name: "Seals" });
});

/** A connection that breaks as soon as something is sent. */
class Broken {
  upload = {};
  onerror = () => undefined;
  open() {}
  setRequestHeader() {}
  send() {
    queueMicrotask(() => this.onerror());
  }
}

test("rows that are pasted begin a study, which goes again if they could not be sent", async () => {
  vi.stubGlobal("XMLHttpRequest", Broken);
  const { heard } = await list({
    "POST /api/studies": () => Response.json({ id: "new" }, { status: 201 }),
    "DELETE /api/studies/new": () => new Response(null, { status: 204 }),
  });
  const paste = (text: string) =>
    fireEvent.paste(document.body, { clipboardData: { files: [], getData: () => text } });
  paste("valves"); // a word is no table
  paste("t\ts\n1\t0\n");
  expect((await screen.findByRole("alert")).textContent).toContain("does not answer");
  const changes = heard.filter((requested) => requested.method !== "GET");
  expect(changes.map(({ method, body }) => [method, body])).toEqual([
    ["POST", { name: "Pasted rows" }],
    ["DELETE", undefined],
  ]);
  vi.unstubAllGlobals();
});

// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { Finding } from "../../api/types";
import { shown } from "../../testing/page";
import { serverThat } from "../../testing/server";
import { Findings } from "./Findings";

const FINDING = {
  key: "end before start",
  title: "2 rows end before they begin",
  why: "A follow-up cannot be negative.",
  rows: [4, 9],
  columns: ["end"],
  picture: [],
  choices: [
    { name: "set aside", label: "Set aside", moves: "Set aside: median 283 → 400 days" },
    { name: "correct", label: "Correct", moves: "" },
  ],
  folded: false,
  beside: [],
  parts: [],
} as unknown as Finding;
const NOTED = {
  ...FINDING,
  key: "constant: flat",
  title: "flat holds only x",
  folded: true,
} as Finding;

const EITHER = {
  ...FINDING,
  key: "which is the event: s",
  title: "s is 0 or 1: which is the event?",
  picture: [
    { name: "1 is the event", choice: "event 1", times: [0, 5], heights: [1, 0.4] },
    { name: "0 is the event", choice: "event 0", times: [0, 5], heights: [1, 0.7] },
  ],
  choices: [
    { name: "event 1", label: "1 is the event, 0 is censored", moves: "", at_once: true },
    { name: "event 0", label: "0 is the event, 1 is censored", moves: "", at_once: true },
  ],
} as Finding;
const TWICE = {
  ...FINDING,
  key: "entered twice: id",
  title: "2 values of id are shared by several rows",
  parts: [
    {
      ...FINDING,
      key: "entered twice: id p4",
      title: "2 rows share id p4: days differs",
      choices: [{ name: "only 9", label: "Keep row 9 only", moves: "", at_once: false }],
      beside: [{ name: "p4", columns: ["days"], rows: [4, 9], cells: [["12"], [""]], more: 0 }],
    },
  ],
} as Finding;

function findings(refused?: string, all: Finding[] = [FINDING], later = false) {
  const heard = serverThat({
    "POST /api/studies/s/findings": () =>
      refused
        ? Response.json({ detail: refused }, { status: 422 })
        : Response.json({}, { status: 201 }),
    "GET /api/studies/s/prepare/moves": () => ({
      work: null,
      moves: [{ finding: FINDING.key, choice: "set aside", words: "Set aside: median 3 → 4 days" }],
    }),
    "GET /api/studies/s/rows": () => ({
      columns: ["id", "end"],
      total: 2,
      rows: [
        { number: 4, cells: ["p4", "2020-01-02"], as_written: [null, null] },
        { number: 9, cells: ["p9", "2019-03-01"], as_written: [null, null] },
      ],
    }),
  });
  const mark = vi.fn();
  const found = shown(
    <Findings study="s" findings={all} movesLater={later} marked={null} onMark={mark} />,
  );
  const sent = () =>
    heard.filter((requested) => requested.method === "POST").map((requested) => requested.body);
  return { ...found, mark, sent };
}

const button = (name: string | RegExp) => screen.getByRole("button", { name });

test("which code is the event is chosen at once, under the curve that it leads to", async () => {
  const { user, sent } = findings(undefined, [EITHER]);
  const curve = screen.getByRole("img", { name: /^1 is the event: / });
  const chosen = button("1 is the event, 0 is censored: s is 0 or 1: which is the event?");
  expect(curve.closest("figure")?.contains(chosen)).toBe(true);
  await user.click(chosen);
  await waitFor(() => expect(sent()).toHaveLength(1));
  expect(sent()[0]).toEqual({
    finding: "which is the event: s",
    choice: "event 1",
    reason: "",
    corrections: [],
  });
  expect(screen.queryByRole("dialog")).toBeNull();
});

test("rows of one subject stand side by side under the finding about all of them", async () => {
  const { user, sent } = findings(undefined, [TWICE]);
  await user.click(screen.getByText("Look at each of the 1"));
  const table = screen.getByRole("table", { name: "Rows of p4" });
  expect(table.textContent).toBe("row 4row 9days12—");
  await user.click(button("Keep row 9 only: 2 rows share id p4: days differs"));
  await user.click(button("Keep row 9 only"));
  await waitFor(() => expect(sent()).toHaveLength(1));
  expect(sent()[0]).toMatchObject({ finding: "entered twice: id p4", choice: "only 9" });
});

test("what choices do to the median may come later", async () => {
  findings(undefined, [{ ...FINDING, choices: [] }], true);
  await screen.findByText("Set aside: median 3 → 4 days");
});

test("what was found is decided with a reason, and its rows can be looked at", async () => {
  const { user, mark, sent } = findings();
  expect(screen.getByRole("heading", { level: 2 }).textContent).toBe("Findings to decide 1 open");
  await user.click(button("Show rows: 2 rows end before they begin"));
  expect(mark).toHaveBeenCalledExactlyOnceWith([4, 9]);
  await user.click(button("Set aside: 2 rows end before they begin"));
  await user.type(screen.getByLabelText(/^Reason/), "the dates cannot be read");
  await user.click(button("Set aside"));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(sent()).toEqual([
    {
      finding: "end before start",
      choice: "set aside",
      reason: "the dates cannot be read",
      corrections: [],
    },
  ]);
});

test("a cell is written right; only those that were changed are sent", async () => {
  const { user, sent } = findings();
  await user.click(button("Correct: 2 rows end before they begin"));
  const box = await screen.findByLabelText("Row 9, end");
  expect(button("Correct")).toHaveProperty("disabled", true);
  await user.clear(box);
  await user.type(box, "2021-03-01");
  await user.click(button("Correct"));
  await waitFor(() => expect(sent()).toHaveLength(1));
  expect(sent()[0]).toMatchObject({
    choice: "correct",
    corrections: [{ row: 9, column: "end", value: "2021-03-01" }],
  });
});

test("a refusal stands in the question, which stays open", async () => {
  const { user } = findings("The rows are not there any more.");
  await user.click(button("Set aside: 2 rows end before they begin"));
  await user.click(button("Set aside"));
  expect((await screen.findByRole("alert")).textContent).toBe("The rows are not there any more.");
  expect(screen.getByRole("dialog")).toBeTruthy();
});

test("what moves the median states it; what changes no curve is folded under one line", () => {
  serverThat({});
  const other = { ...NOTED, key: "constant: x", title: "x holds only 1" };
  shown(
    <Findings
      study="s"
      findings={[FINDING, NOTED, other]}
      movesLater={false}
      marked={null}
      onMark={() => {}}
    />,
  );
  expect(screen.getAllByText("Set aside: median 283 → 400 days")).toHaveLength(3);
  const line = screen.getByText("2 more that change no curve by themselves");
  expect(line.closest("details")?.open).toBe(false);
  expect(screen.getByText("flat holds only x").closest("details")).toBe(line.closest("details"));
  expect(screen.getByText(FINDING.title).closest("details")).toBeNull();
});

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
} as unknown as Finding;
const NOTED = {
  ...FINDING,
  key: "constant: flat",
  title: "flat holds only x",
  folded: true,
} as Finding;

function findings(refused?: string) {
  const heard = serverThat({
    "POST /api/studies/s/findings": () =>
      refused
        ? Response.json({ detail: refused }, { status: 422 })
        : Response.json({}, { status: 201 }),
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
  const found = shown(<Findings study="s" findings={[FINDING]} marked={null} onMark={mark} />);
  const sent = () => heard.filter((asked) => asked.method === "POST").map((asked) => asked.body);
  return { ...found, mark, sent };
}

const button = (name: string | RegExp) => screen.getByRole("button", { name });

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

test("what moves the median says so; what changes no curve is folded under one line", () => {
  serverThat({});
  const other = { ...NOTED, key: "constant: x", title: "x holds only 1" };
  shown(<Findings study="s" findings={[FINDING, NOTED, other]} marked={null} onMark={() => {}} />);
  expect(screen.getAllByText("Set aside: median 283 → 400 days")).toHaveLength(3);
  const line = screen.getByText("2 more that change no curve by themselves");
  expect(line.closest("details")?.open).toBe(false);
  expect(screen.getByText("flat holds only x").closest("details")).toBe(line.closest("details"));
  expect(screen.getByText(FINDING.title).closest("details")).toBeNull();
});

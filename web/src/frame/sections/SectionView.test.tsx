// @vitest-environment jsdom
import { act, screen, waitFor } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { expect, test } from "vitest";
import type { Section, StageResult } from "../../api/types";
import { setSandTime } from "../../sandLine/sandTime";
import { Place, shown } from "../../testing/page";
import { serverThat } from "../../testing/server";
import { WorkingsProvider } from "../../workings/workings";
import { SectionView } from "./SectionView";

const EVENTS = { rule: "until", time: [3, 9], columns: [[1, 1]], before: [null], end: null };
const whole = { pages: [], key: null, length: 2 };

const RESULT = {
  drawing: "d",
  cautions: [],
  figure: {
    high: 12,
    time: { unit: "months", decimals: 0, start: 6, events: { ...EVENTS, ...whole } },
  },
} as unknown as StageResult;

function section(of: Partial<Section>) {
  const requested = {
    id: "s",
    title: "Section",
    place: "main",
    part: "",
    offer: "",
    blocks: [],
    ...of,
  };
  return shown(
    <MemoryRouter initialEntries={["/here"]}>
      <WorkingsProvider>
        <SectionView study="s" stage="check" result={RESULT} section={requested as Section} />
        <Place />
      </WorkingsProvider>
    </MemoryRouter>,
  );
}

const block = (of: object) => of as unknown as Section["blocks"][number];

test("what takes long is requested, shows how far it is, and comes", async () => {
  let requested = 0;
  const table = { kind: "table", label: "Optimism", head: [], keys: [], rows: [] };
  serverThat({
    "GET /api/studies/s/check": () => ({ result: { headline: "" } }),
    "GET /api/studies/s/check/parts/optimism": () => {
      requested += 1;
      return requested < 4
        ? { work: { id: "w", what: "drawing samples", share: 0.25 } }
        : { result: { sections: [{ blocks: [table] }] } };
    },
  });
  const { user } = section({ part: "optimism", offer: "Correct for optimism" });
  expect(requested).toBe(0);
  await user.click(screen.getByRole("button", { name: "Correct for optimism" }));
  await screen.findByText("Drawing samples … 25%");
  await screen.findByRole("table", { name: "Optimism" });
  expect(requested).toBe(4);
});

test("a p has its exact value where it is pointed at, and by Tab where it is shown as a bound", async () => {
  const p = (text: string, raw: number, exact: string) => ({ text, raw, exact, below: "" });
  const rows = [[p("< 0.001", 3.2e-7, "p = 3.2 × 10⁻⁷")], [p("0.044", 0.04449, "p = 0.04449")]].map(
    ([cell]) => [{ ...cell, text: "a test", exact: "" }, cell],
  );
  const { user } = section({
    blocks: [block({ kind: "table", label: "Tests", head: [], keys: [], rows })],
  });
  await user.tab();
  expect((await screen.findByRole("tooltip")).textContent).toBe("p = 3.2 × 10⁻⁷");
  await user.tab();
  expect(document.activeElement).toBe(document.body);
  await user.hover(screen.getByText("0.044"));
  await screen.findByText("p = 0.04449");
});

test("a part that cannot be computed gives the reason", async () => {
  serverThat({
    "GET /api/studies/s/check": () => ({ result: { headline: "" } }),
    "GET /api/studies/s/check/parts/optimism": () =>
      Response.json({ detail: "No pair can be compared." }, { status: 422 }),
  });
  section({ part: "optimism" });
  expect((await screen.findByRole("alert")).textContent).toBe("No pair can be compared.");
});

test("a remedy states another model and goes there", async () => {
  const statement = { stage: "model", version: 4, strata: ["vessels"] };
  const heard = serverThat({
    "PUT /api/studies/s/statement": () => new Response(null, { status: 204 }),
  });
  const action = { kind: "action", do: "state", label: "Give each level its own baseline" };
  const { user } = section({
    blocks: [block({ ...action, sentence: "vessels fails.", stage: "model", statement })],
  });
  await user.click(screen.getByRole("button", { name: action.label }));
  await waitFor(() => expect(screen.getByText("/studies/s/model")).toBeTruthy());
  expect(heard[0]?.body).toEqual(statement);
});

test("keeping a model in spite of a doubt requests the reason, and keeps it", async () => {
  const heard = serverThat({
    "POST /api/studies/s/decisions": () => Response.json({}, { status: 201 }),
  });
  const sentence = "The model is kept although vessels fails.";
  const action = { kind: "action", do: "decide", label: "Keep the model", stage: "check" };
  const { user } = section({ blocks: [block({ ...action, sentence, about: "ratio over time" })] });
  await user.click(screen.getByRole("button", { name: "Keep the model" }));
  await user.type(screen.getByLabelText(/^Reason/), "the change is small");
  await user.click(screen.getByRole("button", { name: "Keep" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  const { method: _, ...shown } = { method: "", ...(heard[0]?.body as object) };
  expect(shown).toEqual({
    stage: "check",
    about: "ratio over time",
    choice: "keep",
    sentence,
    reason: "the change is small",
  });
});

test("a table follows the sand line, states how long it holds, and warns where few are left", async () => {
  const series = [
    {
      rule: "from",
      time: [0, 3, 9],
      columns: [
        [1, 0.9, 0.5],
        [20, 19, 4],
      ],
      before: [1, 20],
      end: 12,
    },
  ].map((one) => ({ ...one, pages: [], key: null, length: 3 }));
  const cell = { series: 0, low: null, high: null, text: "", workings: null };
  const timed = block({
    kind: "timed",
    label: "At this time",
    head: ["", "free", "at risk"],
    series,
    rows: [
      {
        label: "standard",
        tone: 0,
        cells: [
          { ...cell, value: 0, form: "percent" },
          { ...cell, value: 1, form: "whole" },
        ],
      },
    ],
    past: "",
    few: { cell: 1, below: 10, lead: "Few left.", sentence: "Fewer than 10 are at risk" },
    chosen: null,
  });
  section({ place: "side", blocks: [timed] });
  const row = () => screen.getByRole("row", { name: /standard/ }).textContent;
  expect(row()).toBe("standard90.0%19");
  expect(screen.getByText("Holds from here: no event until 9.")).toBeTruthy();
  expect(screen.queryByRole("note")).toBeNull();
  act(() => setSandTime("s", 10));
  expect(row()).toBe("standard50.0%4");
  expect(screen.getByText("Holds from here: no later event.")).toBeTruthy();
  expect(screen.getByRole("note").textContent).toBe(
    "Few left. Fewer than 10 are at risk in standard.",
  );
  expect(screen.getByLabelText<HTMLInputElement>("Time read, in months").value).toBe("10");
});

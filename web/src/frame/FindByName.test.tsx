// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { expect, test, vi } from "vitest";
import { Place, shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { FindByName } from "./FindByName";

const view = (letter: string) => ({ letter, title: `of ${letter}` });

async function finding() {
  serverThat({
    "GET /api/studies/s": () => ({
      revision: 1,
      file: { name: "valves.csv" },
      stages: [
        { stage: "prepare", title: "Prepare", analyses: [] },
        { stage: "estimate", title: "Estimate", analyses: ["A", "B"].map(view) },
        { stage: "model", title: "Model", analyses: [view("A")] },
      ],
    }),
  });
  const [act, close] = [vi.fn(), vi.fn()];
  const acts = [{ name: "Apply a plan", act }];
  const found = shown(
    <MemoryRouter>
      <FindByName study="s" acts={acts} onClose={close} />
      <Place />
    </MemoryRouter>,
  );
  const slot = { id: "term-0", title: "Term", label: "age", state: "set" };
  found.client.setQueryData(["study", "s", "stage", "model"], {
    result: { sentence: { parts: [{ text: "By " }, { slot }] } },
  });
  await screen.findByRole("option", { name: /The report \(PDF\)/ });
  return { ...found, act, close, box: screen.getByRole("combobox") };
}

const names = () => screen.queryAllByRole("option").map((option) => option.textContent);

test("every word that is typed must be in the name or in where it belongs", async () => {
  const { user, box } = await finding();
  await user.type(box, "save report");
  expect(names()).toContain("The report (DOCX)Save");
  expect(names().every((name) => name?.includes("report"))).toBe(true);
  await user.type(box, " nothing");
  expect(screen.getByRole("status").textContent).toBe("Nothing is called so.");
});

test("views are found by their letters and titles where a stage has several", async () => {
  const { user, box } = await finding();
  await user.type(box, "view");
  expect(names()).toEqual(["View A: of AEstimate", "View B: of BEstimate"]);
});

test("a slot of a sentence is gone to, and opened", async () => {
  const { user, box, close } = await finding();
  await user.type(box, "term age{Enter}");
  expect(close).toHaveBeenCalledOnce();
  await waitFor(() =>
    expect(screen.getByText(/^\/studies/).textContent).toBe('/studies/s/model {"slot":"term-0"}'),
  );
});

test("the arrow keys go round, and what is done is done", async () => {
  const { user, box, act } = await finding();
  await user.type(box, "{ArrowUp}");
  const chosen = () => screen.getByRole("option", { selected: true }).textContent;
  const last = names().at(-1);
  expect(chosen()).toBe(last);
  await user.type(box, "{ArrowDown}");
  expect(chosen()).toBe("PrepareStage");
  await user.clear(box);
  await user.type(box, "apply a plan{Enter}");
  expect(act).toHaveBeenCalledOnce();
});

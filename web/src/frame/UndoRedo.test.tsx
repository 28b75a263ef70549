// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";
import { shown } from "../testing/page";
import { serverThat } from "../testing/server";
import { useMessage } from "./messages";
import { UndoRedo } from "./UndoRedo";

function Shown() {
  return <p role="status">{useMessage()?.words}</p>;
}

function page(undo: string | null, redo: string | null) {
  const moved = { stage: "prepare", sentence: "2 rows set aside" };
  const heard = serverThat({
    "GET /api/studies/s": () => ({
      revision: 3,
      undo,
      redo,
      stages: [{ stage: "prepare", title: "Prepare" }],
    }),
    "POST /api/studies/s/undo": () => moved,
    "POST /api/studies/s/redo": () => moved,
  });
  const found = shown(
    <>
      <UndoRedo study="s" />
      <input aria-label="typing" />
      <Shown />
    </>,
  );
  const posts = () =>
    heard.filter((requested) => requested.method === "POST").map((requested) => requested.path);
  return { ...found, posts };
}

const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });

test("what was undone is stated, with its stage", async () => {
  const { user, posts } = page("2 rows set aside", null);
  await waitFor(() => expect(button("Undo").disabled).toBe(false));
  expect(button("Undo").title).toBe("Undo: 2 rows set aside");
  expect(button("Redo").disabled).toBe(true);
  await user.click(button("Undo"));
  await screen.findByText("Undone in Prepare: 2 rows set aside");
  expect(posts()).toEqual(["/api/studies/s/undo"]);
});

test("the keys do the same, but not while somebody types", async () => {
  const { user, posts } = page("a", "b");
  await waitFor(() => expect(button("Redo").disabled).toBe(false));
  await user.type(screen.getByLabelText("typing"), "{Control>}z{/Control}");
  expect(posts()).toEqual([]);
  (document.activeElement as HTMLElement).blur();
  await user.keyboard("{Control>}{Shift>}z{/Shift}{/Control}");
  await screen.findByText(/^Redone in Prepare/);
  expect(posts()).toEqual(["/api/studies/s/redo"]);
});

test("where there is nothing to undo, that is stated and nothing is sent", async () => {
  const { user, posts } = page(null, null);
  await user.keyboard("{Control>}z{/Control}");
  await screen.findByText("There is nothing to undo.");
  expect(posts()).toEqual([]);
});

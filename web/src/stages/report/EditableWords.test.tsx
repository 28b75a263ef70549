// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { ReportWords } from "../../api/types";
import { shown } from "../../testing/page";
import { EditableWords } from "./EditableWords";

const MADE = { key: "k", text: "612 were followed.", made: "612 were followed.", edited: false };

function words(of: Partial<ReportWords> = {}) {
  const write = vi.fn();
  const requested = { ...MADE, doubt: "", ...of } as unknown as ReportWords;
  return { ...shown(<EditableWords words={requested} onWrite={write} />), write, requested };
}

test("words are written in place, kept by a key, and left as they were by another", async () => {
  const { user, write, requested } = words();
  await user.click(screen.getByRole("button", { name: /^Edit/ }));
  const box = screen.getByLabelText("Words of the report");
  expect(document.activeElement).toBe(box);
  await user.type(box, " No one was lost.{Escape}");
  expect(screen.queryByLabelText("Words of the report")).toBeNull();
  expect(write).not.toHaveBeenCalled();
  await user.click(screen.getByRole("button", { name: /^Edit/ }));
  await user.type(
    screen.getByLabelText("Words of the report"),
    " No one was lost.{Control>}{Enter}{/Control}",
  );
  expect(write).toHaveBeenCalledExactlyOnceWith(requested, "612 were followed. No one was lost.");
});

test("words that were not changed are not written", async () => {
  const { user, write } = words();
  await user.click(screen.getByRole("button", { name: /^Edit/ }));
  await user.click(screen.getByRole("button", { name: "Keep these words" }));
  expect(write).not.toHaveBeenCalled();
});

test("an author's words are marked, and doubted where a number of theirs has changed", async () => {
  const doubt = "They quote 612, which is not among the numbers now.";
  const { user, write, requested } = words({ edited: true, doubt, made: "610 were followed." });
  expect(screen.getByText("the author’s words")).toBeTruthy();
  expect(screen.getByRole("status").textContent).toContain("Made now: 610 were followed.");
  await user.click(screen.getByRole("button", { name: "Keep mine, they are right" }));
  await user.click(screen.getByRole("button", { name: "Use the words made now" }));
  expect(write.mock.calls).toEqual([
    [requested, requested.text],
    [requested, null],
  ]);
});

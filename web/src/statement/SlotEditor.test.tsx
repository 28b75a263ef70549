// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { Slot } from "../api/types";
import { shown } from "../testing/page";
import { SlotEditor } from "./SlotEditor";

const option = (label: string, value: unknown, note = "") => ({
  label,
  field: "by",
  value,
  note,
  chosen: false,
  adds: false,
});

function slot(of: Partial<Slot>): Slot {
  return {
    id: "by",
    title: "Groups",
    label: "drops",
    state: "set",
    options: [],
    codes: [],
    ...of,
  } as unknown as Slot;
}

function edited(of: Partial<Slot>) {
  const set = vi.fn();
  const requested = {
    slot: slot(of),
    anchor: document.body,
    onClose: vi.fn(),
    onSet: set,
    onTry: vi.fn(),
  };
  return { ...shown(<SlotEditor {...requested} />), set };
}

test("of many options those are left whose name or note holds what is typed", async () => {
  const options = Array.from({ length: 9 }, (_, k) => option(`column ${k}`, k, `${k + 2} levels`));
  const { user, set } = edited({ options });
  await user.type(screen.getByLabelText("Search"), "10 LEV");
  expect(screen.getAllByRole("menuitem")).toHaveLength(1);
  await user.click(screen.getByRole("menuitem", { name: /column 8/ }));
  expect(set).toHaveBeenCalledExactlyOnceWith("by", 8, {});
  await user.type(screen.getByLabelText("Search"), "x");
  expect(screen.getByText("Nothing is called that.")).toBeTruthy();
});

test("a few options are taken by the keys, with nothing to search", async () => {
  const { user, set } = edited({ options: [option("arm", "arm"), option("site", "site")] });
  expect(screen.queryByLabelText("Search")).toBeNull();
  await user.keyboard("{ArrowDown}{Enter}");
  expect(set).toHaveBeenCalledExactlyOnceWith("by", "site", {});
});

test("a slot that no column fits states it", () => {
  edited({});
  expect(screen.getByText("No column of this file fits here.")).toBeTruthy();
});

test("every code is given a meaning, none is assumed", async () => {
  const code = (of: object) => ({ count: 1, meaning: null, name: "", spellings: [], ...of });
  const { user, set } = edited({
    codes: [
      code({ code: "F", count: 1234, proposed: "event", because: "F reads as failed" }),
      code({ code: "S", count: 20, meaning: "censored", spellings: ["s"] }),
      code({ code: "", count: 2 }),
    ] as unknown as Slot["codes"],
  });
  expect(screen.getByText(/^0 of 1 256 rows would have the event/).textContent).toContain(
    "Without a meaning still: F, blank.",
  );
  expect(screen.getByText(/also written “s”/)).toBeTruthy();
  await user.click(screen.getByRole("button", { name: "Fill these in" }));
  expect(screen.getByText(/^1 234 of 1 256 rows/).textContent).toContain("still: blank.");
  await user.type(screen.getByLabelText("What F is called"), "failure");
  await user.click(screen.getByRole("button", { name: "Set meanings" }));
  expect(set).toHaveBeenCalledExactlyOnceWith("meanings", {
    F: { meaning: "event", name: "failure" },
    S: { meaning: "censored", name: "" },
  });
});

test("what adds is chosen under its name, so that the sentence can show it at once", async () => {
  const { user, set } = edited({ options: [{ ...option("age", { column: "age" }), adds: true }] });
  await user.click(screen.getByRole("menuitem", { name: "age" }));
  expect(set).toHaveBeenCalledExactlyOnceWith("by", { column: "age" }, { adds: "age" });
});

// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { describe, expect, test, vi } from "vitest";
import type { Slot } from "../api/types";
import { shown } from "../testing/page";
import { EntryField } from "./EntryField";

type Entry = NonNullable<Slot["entry"]>;

async function typed(kind: Entry["kind"], text: string) {
  const set = vi.fn();
  const entry = { kind, label: "Value", value: "", field: "f" } as unknown as Entry;
  const { user, unmount } = shown(<EntryField entry={entry} onSet={set} />);
  const box = screen.getByLabelText("Value");
  if (kind === "date") await user.type(box, text);
  else if (text) await user.type(box, text);
  await user.keyboard("{Enter}");
  const refused = screen.queryByText(/^(Write|At most)/)?.textContent ?? null;
  unmount();
  return refused ?? set.mock.calls[0]?.[0];
}

describe("what is typed into a slot is read, or refused in words", () => {
  test.each([
    ["number", "2,5", 2.5],
    ["number", "0", "Write a number above 0."],
    ["number", "ten", "Write a number above 0."],
    ["value", "−0,4", -0.4],
    ["value", " ", "Write a number."],
    ["text", "  second look ", "second look"],
    ["text", "  ", "Write a word or two."],
    ["date", "2021-04-30", "2021-04-30"],
    ["times", "24; 12 24", [12, 24]],
    ["times", "12, −1", "Write times of 0 or more, set apart by commas."],
    ["times", "1,2,3,4,5,6,7,8,9,10,11,12,13", "At most twelve times."],
    ["numbers", "60 40", [40, 60]],
    ["numbers", "1,2,3,4,5,6", "At most five thresholds."],
    ["scores", "1, −2, 4", [1, -2, 4]],
    ["scores", "1", "Write a number for each group, set apart by commas."],
    ["pair", "5, 24", { size: 0.05, at: 24 }],
    ["pair", "5", "Write percentage points and a time, such as 5, 24."],
    ["pair", "100, 24", "Write percentage points and a time, such as 5, 24."],
  ] as const)("%s: “%s”", async (kind, text, expected) => {
    expect(await typed(kind, text)).toEqual(expected);
  });
});

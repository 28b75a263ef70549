// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { useState } from "react";
import { MemoryRouter } from "react-router";
import { expect, test } from "vitest";
import { shown } from "../../testing/page";
import { CitedSentences, Sources } from "./Sources";

const COMPARE = { stage: "compare", title: "Compare" };
const MODEL = { stage: "model", title: "Model" };
const SENTENCES = [
  { text: "The groups differed.", sources: [COMPARE] },
  { text: "The hazard ratio was 0.66.", sources: [MODEL] },
  { text: "No plan was sealed.", sources: [] },
];

function Piece({ sources }: { sources: (typeof MODEL)[] }) {
  const [pointed, setPointed] = useState<readonly string[]>([]);
  const pointing = { pointed, onPoint: setPointed };
  return (
    <>
      <Sources study="1" sources={sources} {...pointing} />
      <p>
        <CitedSentences sentences={SENTENCES} every={sources.length} {...pointing} />
      </p>
    </>
  );
}

const marked = () => [...document.querySelectorAll(".cited.pointed")].map((one) => one.textContent);

test("results pointed at mark the sentences made from them, and the other way round", async () => {
  const { user } = shown(
    <MemoryRouter>
      <Piece sources={[COMPARE, MODEL]} />
    </MemoryRouter>,
  );
  expect(marked()).toEqual([]);
  await user.tab();
  expect(marked()).toEqual(["The groups differed. (from Compare)"]);
  await user.tab();
  expect(marked()).toEqual(["The hazard ratio was 0.66. (from Model)"]);
  await user.hover(screen.getByText("The groups differed."));
  expect(screen.getByRole("link", { name: "Compare" }).className).toBe("pointed");
  await user.hover(screen.getByText("No plan was sealed."));
  expect(marked()).toEqual([]);
});

test("where a piece has one source, none is read out sentence by sentence", async () => {
  const { user } = shown(
    <MemoryRouter>
      <Piece sources={[MODEL]} />
    </MemoryRouter>,
  );
  await user.tab();
  expect(marked()).toEqual([]);
  expect(screen.queryByText(/\(from/)).toBeNull();
});

import { expect, test } from "vitest";
import type { Figure, GroupStyle, Mark } from "../api/types";
import { chosenTones, hiddenGroups, styled } from "./styled";

const mark = (kind: string, tone: number) => ({ kind, tone, label: `${kind} ${tone}` }) as Mark;
const MARKS = [mark("area", 0), mark("line", 0), mark("area", 1), mark("line", 1)];

function figure(grouped = true): Figure {
  return {
    groups: [0, 1].map((tone) => ({ key: `bed: ${tone}`, label: `${tone}`, tone, levels: [] })),
    tracks: [
      { id: "survival", grouped, marks: MARKS, counts: [], panels: [] },
      { id: "at_risk", grouped, marks: [], counts: [{ tone: 0 }, { tone: 1 }], panels: [] },
      {
        id: "apart",
        grouped,
        marks: [],
        counts: [],
        panels: [0, 1].map((tone) => ({ title: "", tone, marks: MARKS })),
      },
    ],
  } as unknown as Figure;
}

const style = (group: string, more: Partial<GroupStyle>): GroupStyle => ({
  group,
  tone: null,
  dash: null,
  hidden: [],
  front: [],
  bare: [],
  ...more,
});
const labels = (made: Figure) => made.tracks[0]?.marks.map((one) => `${one.label} as ${one.tone}`);

test("a hidden group is in no track of its view, and in every other view", () => {
  const styles = [style("bed: 1", { hidden: ["estimate"] })];
  const made = styled(figure(), styles, "estimate");
  expect(labels(made)).toEqual(["area 0 as 0", "line 0 as 0"]);
  expect(made.tracks[1]?.counts.map((row) => row.tone)).toEqual([0]);
  expect(made.tracks[2]?.panels.map((panel) => panel.tone)).toEqual([0]);
  expect(hiddenGroups(figure().groups, styles, "estimate").map((one) => one.key)).toEqual([
    "bed: 1",
  ]);
  expect(hiddenGroups(figure().groups, styles, "compare")).toEqual([]);
  expect(labels(styled(figure(), styles, "compare"))).toHaveLength(4);
});

test("a group in front is drawn last, a bare one without its interval, a tone in every view", () => {
  const styles = [style("bed: 0", { tone: 4, front: ["estimate"], bare: ["estimate"] })];
  expect(labels(styled(figure(), styles, "estimate"))).toEqual([
    "area 1 as 1",
    "line 1 as 1",
    "line 0 as 4",
  ]);
  expect(styled(figure(), styles, "compare").tracks[1]?.counts.map((row) => row.tone)).toEqual([
    4, 1,
  ]);
  expect([...chosenTones(figure().groups, styles)]).toEqual([[0, 4]]);
});

test("tones that are not those of groups stay, and so does a figure of other groups", () => {
  const styles = [style("bed: 0", { tone: 4, hidden: ["estimate"] })];
  const causes = styled(figure(false), styles, "estimate");
  expect(labels(causes)).toHaveLength(4);
  expect(causes.tracks[2]?.panels.map((panel) => panel.tone)).toEqual([1]);
  const others = [style("pot: 0", { hidden: ["estimate"] })];
  const same = figure();
  expect(styled(same, others, "estimate")).toBe(same);
});

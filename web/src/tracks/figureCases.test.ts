import { expect, test } from "vitest";
import cases from "../../../tests/figure_cases.json";
import type { Figure, GroupStyle, Series } from "../api/types";
import { readSeries } from "../numbers/atTime";
import { apart } from "./apart";
import { firstFitting } from "./fittingTicks";
import { styled } from "./styled";

const KINDS = ["area", "bars", "line", "points"];
const MARKS = [0, 1].flatMap((tone) =>
  KINDS.map((kind) => ({ kind, tone, label: `${kind} ${tone}` })),
);
const TWO_GROUPS = {
  groups: [0, 1].map((tone) => ({ key: `bed: ${tone}`, label: `${tone}`, tone, levels: [] })),
  tracks: [
    { id: "survival", grouped: true, marks: MARKS, counts: [], panels: [] },
    { id: "at_risk", grouped: true, marks: [], counts: [{ tone: 0 }, { tone: 1 }], panels: [] },
    {
      id: "apart",
      grouped: true,
      marks: [],
      counts: [],
      panels: [0, 1].map((tone) => ({ title: `${tone}`, tone, marks: MARKS })),
    },
    { id: "ratio", grouped: false, marks: MARKS, counts: [], panels: [] },
  ],
} as unknown as Figure;
const PLAIN = { tone: null, dash: null, hidden: [], front: [], bare: [] };

test.each(cases.apart)("labels move apart: %o", ({ wanted, heights, top, bottom, found }) => {
  expect(apart(wanted, heights, top, bottom)).toEqual(found);
});

test.each(cases.styled)("groups are drawn as somebody wants them: %o", (each) => {
  const styles = each.group_styles.map((style) => ({ ...PLAIN, ...style })) as GroupStyle[];
  const drawn = styled(TWO_GROUPS, styles, each.view);
  const named = (marks: readonly { label: string; tone: number; dash?: number | null }[]) =>
    marks.map(({ label, tone, dash }) => [label, tone, ...(dash == null ? [] : [dash])]);
  const found = drawn.tracks.map((track) => [
    track.id,
    {
      marks: named(track.marks),
      counts: track.counts.map((row) => row.tone),
      panels: track.panels.map((panel) => [panel.tone, named(panel.marks)]),
    },
  ]);
  expect(Object.fromEntries(found)).toEqual(each.tracks);
});

test.each(cases.ticks)("the first list of ticks that fits is drawn: %o", (each) => {
  const levels = each.levels.map((level) => level.map((label) => ({ label })));
  const found = firstFitting(levels, (label) => 8 * label.length + 16, each.length);
  expect(found).toEqual(each.found === null ? [] : levels[each.found]);
});

test.each(cases.reading)("a curve is read at a time: %o", (each) => {
  const [curve, atRisk] = each.series as unknown as [Series, Series];
  for (const at of each.at) {
    const read = [0, 1, 2, 3].map((column) => readSeries(curve, column, at.t));
    expect(read).toEqual([at.survival, at.lower, at.upper, at.events]);
    if (at.at_risk !== null) expect(readSeries(atRisk, 0, at.t)).toEqual(at.at_risk);
  }
});

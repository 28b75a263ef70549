import { expect, test } from "vitest";
import type { Figure, Trial } from "../api/types";
import { withTried } from "./withTried";

const track = (id: string, more: object) => ({ id, drawn: true, counts: [], parts: [], ...more });
const line = (label: string, part = "") => ({ kind: "line", label, part });

const FIGURE = {
  groups: [],
  tracks: [
    track("survival", {
      marks: [line("own")],
      parts: [
        { id: "curve", shown: true },
        { id: "limits", shown: false },
      ],
    }),
    track("thresholds", { marks: [line("profile")] }),
    track("evidence", { marks: [line("excess")] }),
    track("apart", { marks: [], drawn: false }),
  ],
} as unknown as Figure;

test("what is tried takes the place of what is shown, and no part that is switched off comes with it", () => {
  const trial = {
    figure: {
      groups: [{ label: "tried" }],
      tracks: [
        track("survival", {
          marks: [line("tried", "curve"), line("low", "limits"), line("ring", "quartiles")],
        }),
        track("apart", { marks: [line("apart")] }),
      ],
    },
    over: { thresholds: [line("this threshold")] },
    readings: [],
  } as unknown as Trial;
  const drawn = withTried(FIGURE, trial);
  expect(drawn.tracks[2]?.marks[0]).toHaveProperty("ghost", true);
  expect(drawn.tracks[1]?.marks[0]).not.toHaveProperty("ghost");
  expect(drawn.groups).toEqual([{ label: "tried" }]);
  expect(drawn.tracks.map((one) => one.marks.map((mark) => mark.label))).toEqual([
    ["tried"],
    ["profile", "this threshold"],
    ["excess"],
    [],
  ]);
});

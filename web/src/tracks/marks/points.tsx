import type { MarkOf } from "../../api/types";
import { toneColour } from "../../theme/tones";
import { GHOST, type Place } from "./drawing";

type Points = MarkOf<"points">;

/** Each glyph around a place, as a path: thousands of points cost one element. */
const GLYPHS: Record<Points["glyph"], (x: number, y: number) => string> = {
  tick: (x, y) => `M${at(x)} ${at(y - 4)}v8`,
  dot: (x, y) => `M${at(x)} ${at(y)}h0`,
  disc: (x, y) => `M${at(x)} ${at(y)}h0`,
  ring: (x, y) => `M${at(x - 3.5)} ${at(y)}a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0 -7 0`,
  diamond: (x, y) => `M${at(x)} ${at(y - 6)}l6 6l-6 6l-6-6z`,
  cross: (x, y) => `M${at(x - 3)} ${at(y - 3)}l6 6m0-6l-6 6`,
};

export function PointsMark({ mark, place }: { mark: Points; place: Place }) {
  const glyph = GLYPHS[mark.glyph];
  let d = "";
  for (let k = 0; k < mark.x.length; k++) {
    const [x, y] = [mark.x[k], mark.y[k]];
    if (x !== null && x !== undefined && y !== null && y !== undefined)
      d += glyph(place.x(x), place.y(y));
  }
  const plain = mark.tone < 0 && (mark.glyph === "dot" || mark.glyph === "disc");
  return (
    <path
      d={d}
      stroke={plain ? undefined : toneColour(mark.tone)}
      fill={mark.glyph === "diamond" ? toneColour(mark.tone) : "none"}
      opacity={mark.ghost ? GHOST : undefined}
      className={`points-${mark.glyph}`}
    />
  );
}

function at(pixel: number): string {
  return pixel.toFixed(1);
}

/** Error bars; a limit past the axis is an arrow at its edge. */
export function BarsMark({ mark, place }: { mark: MarkOf<"bars">; place: Place }) {
  const run = mark.upright ? place.y : place.x;
  const axis = mark.upright ? place.up : place.across;
  const cross = mark.upright ? place.x : place.y;
  const point = (along: number, across: number): [number, number] =>
    mark.upright ? [across, along] : [along, across];
  let d = "";
  for (let k = 0; k < mark.at.length; k++) {
    const [middle, low, high] = [mark.at[k], mark.low[k], mark.high[k]];
    if (middle === null || middle === undefined) continue;
    const from = low === null || low === undefined ? axis.low : low;
    const to = high === null || high === undefined ? axis.high : high;
    const [x1, y1] = point(run(Math.max(from, axis.low)), cross(middle));
    const [x2, y2] = point(run(Math.min(to, axis.high)), cross(middle));
    d += `M${at(x1)} ${at(y1)}L${at(x2)} ${at(y2)}`;
    if (from < axis.low) d += arrow(x1, y1, mark.upright ? [0, -1] : [1, 0]);
    if (to > axis.high) d += arrow(x2, y2, mark.upright ? [0, 1] : [-1, 0]);
  }
  return (
    <path
      d={d}
      stroke={toneColour(mark.tone)}
      opacity={mark.ghost ? GHOST : undefined}
      className="bars"
    />
  );
}

/** The head of an arrow at a place; the line comes from where it points away. */
function arrow(x: number, y: number, from: [number, number]): string {
  const [dx, dy] = from;
  const back = (side: number) =>
    `${at(x + 6 * dx + side * 4 * dy)} ${at(y + 6 * dy + side * 4 * dx)}`;
  return `M${back(1)}L${at(x)} ${at(y)}L${back(-1)}`;
}

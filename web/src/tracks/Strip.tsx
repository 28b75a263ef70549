import { scaleLinear, scaleLog } from "d3-scale";
import { memo } from "react";
import type { Line, Marks, Track } from "../api/types";
import { LEFT, PAD, RIGHT } from "./layout";
import { toneColour, toneDash } from "./palette";
import { areaPath, lineEnd, linePath } from "./paths";
import { axisTicks } from "./ticks";

interface Props {
  track: Track;
  x: (t: number) => number;
  width: number;
  height: number;
}

/** The drawing of one track with a vertical axis: bands, lines, marks, and names at line ends. */
export const Strip = memo(function Strip({ track, x, width, height }: Props) {
  const axis = track.axis;
  if (!axis) return null;
  const scale = axis.form === "ratio" ? scaleLog() : scaleLinear();
  const y = scale.domain([axis.low, axis.high]).range([height - PAD, PAD]);
  const right = width - RIGHT;
  const onRight = axis.form === "ratio";
  return (
    <g>
      {axisTicks(axis, height).map((tick) => (
        <g key={tick.at}>
          <line x1={LEFT} x2={right} y1={y(tick.at)} y2={y(tick.at)} className="grid" />
          <text
            x={onRight ? right + 8 : LEFT - 8}
            y={y(tick.at) + 4}
            textAnchor={onRight ? "start" : "end"}
            className="tick"
          >
            {tick.label}
          </text>
        </g>
      ))}
      {track.rules.map((rule) => (
        <line
          key={rule.label}
          x1={LEFT}
          x2={right}
          y1={y(rule.y)}
          y2={y(rule.y)}
          className={rule.dashed ? "rule dashed" : "rule"}
        />
      ))}
      {track.areas.map((area) => (
        <path
          key={area.label}
          d={areaPath(area, x, held(y, axis.low, axis.high))}
          fill={toneColour(area.tone)}
          className="band"
        />
      ))}
      {track.marks.map((marks) => (
        <path
          key={marks.label}
          d={marksPath(marks, x, y)}
          stroke={marks.glyph === "tick" ? toneColour(marks.tone) : undefined}
          className={marks.glyph === "tick" ? "censored" : "dots"}
        />
      ))}
      {track.lines.map((line) => (
        <path
          key={line.label}
          d={linePath(line, x, y)}
          stroke={toneColour(line.tone)}
          strokeDasharray={toneDash(line.tone)}
          className="curve"
        />
      ))}
      {axis.form === "percent" || track.id === "evidence" ? (
        <EndLabels lines={track.lines} x={x} y={y} right={right} height={height} />
      ) : null}
    </g>
  );
});

/** A scale that holds bands within the track. */
function held(y: (v: number) => number, low: number, high: number) {
  return (v: number) => y(Math.min(Math.max(v, low), high));
}

/** Marks as one path, so that thousands cost one element: a stroke up and down, or a round dot. */
function marksPath(marks: Marks, x: (t: number) => number, y: (v: number) => number): string {
  const [rise, stroke] = marks.glyph === "tick" ? [4, "v8"] : [0, "h0"];
  let d = "";
  for (let k = 0; k < marks.x.length; k++) {
    const value = marks.y[k];
    if (value !== null && value !== undefined)
      d += `M${x(marks.x[k] as number).toFixed(1)} ${(y(value) - rise).toFixed(1)}${stroke}`;
  }
  return d;
}

const LABEL_LINE = 15;
const LABEL_LETTERS = 15;

/** Each curve's name at its end, moved apart where they would overlap. */
function EndLabels({
  lines,
  x,
  y,
  right,
  height,
}: {
  lines: readonly Line[];
  x: (t: number) => number;
  y: (v: number) => number;
  right: number;
  height: number;
}) {
  if (lines.length === 1 && lines[0]?.tone === -1) return null;
  const ends = lines
    .flatMap((line) => {
      const end = lineEnd(line);
      return end ? [{ line, at: y(end[1]), from: x(end[0]), words: wrapped(line.label) }] : [];
    })
    .sort((a, b) => a.at - b.at);
  let floor = 4;
  for (const end of ends) {
    end.at = Math.max(end.at, floor + LABEL_LINE / 2);
    floor = end.at + LABEL_LINE * (end.words.length - 0.5);
  }
  const over = floor - height + 2;
  return (
    <g>
      {ends.map(({ line, at, words }) => (
        <text key={line.label} className="end-label" fill={toneColour(line.tone)}>
          <title>{line.label}</title>
          {words.map((word, k) => (
            <tspan key={k} x={right + 8} y={at + 4 + k * LABEL_LINE - Math.max(over, 0)}>
              {word}
            </tspan>
          ))}
        </text>
      ))}
    </g>
  );
}

/** A name in at most two short lines; the whole name is in its tooltip and in the readings. */
function wrapped(label: string): string[] {
  const words = label.split(" ");
  const lines: string[] = [];
  for (const word of words) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + word.length < LABEL_LETTERS)
      lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  const shown = lines.slice(0, 2).map(cut);
  if (lines.length > 2) shown[1] = `${cut(shown[1] ?? "").slice(0, LABEL_LETTERS - 1)}…`;
  return shown;
}

function cut(word: string): string {
  return word.length > LABEL_LETTERS ? `${word.slice(0, LABEL_LETTERS - 1)}…` : word;
}

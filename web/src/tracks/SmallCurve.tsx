import type { StudyList } from "../api/types";
import { toneColour, toneDash } from "../theme/tones";
import "./SmallCurve.css";

type Thumbnail = NonNullable<StudyList["studies"][number]["thumbnail"]>;

const WIDTH = 96;
const HEIGHT = 34;

/** The curves of a study, small: its headlines name them. */
export function SmallCurve({ thumbnail }: { thumbnail: Thumbnail }) {
  return (
    <svg width={WIDTH} height={HEIGHT} className="small-curve" aria-hidden="true">
      <path d={`M0.5 0V${HEIGHT - 0.5}H${WIDTH}`} className="small-axis" />
      {thumbnail.lines.map((line, k) => (
        <path
          key={k}
          d={stairs(line.x, line.y)}
          stroke={toneColour(line.tone)}
          strokeDasharray={toneDash(line.tone)}
        />
      ))}
    </svg>
  );
}

function stairs(x: readonly number[], y: readonly number[]): string {
  const at = (share: number) => 1 + share * (WIDTH - 2);
  const up = (height: number) => 1 + (1 - height) * (HEIGHT - 2);
  let path = `M${at(0)} ${up(1)}`;
  x.forEach((share, k) => {
    path += `H${at(share).toFixed(1)}V${up(y[k] ?? 1).toFixed(1)}`;
  });
  return path;
}

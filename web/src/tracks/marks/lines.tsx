import type { MarkOf } from "../../api/types";
import { toneColour, toneDash } from "../../theme/tones";
import { areaPath, linePath } from "../paths";
import { held } from "../scales";
import { GHOST, HATCHED, type Place } from "./drawing";

export function LineMark({ mark, place }: { mark: MarkOf<"line">; place: Place }) {
  return (
    <path
      d={linePath(mark, mark.y, place.x, place.y)}
      stroke={toneColour(mark.tone)}
      strokeDasharray={toneDash(mark.dash ?? mark.tone)}
      opacity={mark.ghost ? GHOST : undefined}
      className="curve"
    />
  );
}

const FILL = { faint: 0.14, full: 0.75 } as const;

export function AreaMark({ mark, place }: { mark: MarkOf<"area">; place: Place }) {
  return (
    <path
      d={areaPath(mark, mark.low, mark.high, place.x, held(place.y, place.up))}
      fill={mark.hatched ? HATCHED : toneColour(mark.tone)}
      fillOpacity={mark.hatched ? undefined : FILL[mark.fill] * (mark.ghost ? GHOST : 1)}
      className="band"
    />
  );
}

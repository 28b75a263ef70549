import { type PointerEvent, useState } from "react";
import type { Slot } from "../api/types";
import { nudged } from "../numbers/nudged";
import "./SpreadField.css";

type Spread = NonNullable<Slot["spread"]>;

const WIDTH = 420;
const HEIGHT = 96;
/** Pages up and down move a threshold by this share of the whole spread, arrows by a tenth of it. */
const STEP = 0.1;

/** A number as a histogram on which its thresholds are dragged, or moved with the arrows. */
export function SpreadField({
  spread,
  onSet,
  onTry,
}: {
  spread: Spread;
  onSet: (value: number[]) => void;
  /** A threshold is being dragged: what it would come to is shown meanwhile. */
  onTry: (value: number[]) => void;
}) {
  const [held, setHeld] = useState<{ place: number; at: number } | null>(null);
  const edges = spread.edges as number[];
  const heights = spread.heights as number[];
  const low = edges[0] ?? 0;
  const high = edges[edges.length - 1] ?? 1;
  const top = Math.max(...heights, 1);
  const x = (value: number) => ((value - low) / (high - low)) * WIDTH;
  const rounded = (value: number) =>
    Number(Math.min(Math.max(value, low), high).toFixed(Math.min(spread.decimals, 12)));
  const under = (event: PointerEvent<SVGElement>) => {
    const box = event.currentTarget.closest("svg")?.getBoundingClientRect();
    const share = box ? (event.clientX - box.left) / box.width : 0;
    return rounded(low + share * (high - low));
  };
  const at = spread.at.map((value, place) => (held?.place === place ? held.at : value));
  const moved = (place: number, value: number) =>
    [...new Set(at.map((other, k) => (k === place ? value : other)))].sort((a, b) => a - b);
  return (
    <svg
      viewBox={`0 -14 ${WIDTH} ${HEIGHT + 14}`}
      className="spread"
      role="group"
      aria-label="How it is spread, with its thresholds"
    >
      {heights.map((height, k) => (
        <rect
          key={edges[k]}
          x={x(edges[k] ?? 0) + 0.5}
          y={HEIGHT - (height / top) * HEIGHT}
          width={Math.max(WIDTH / heights.length - 1, 1)}
          height={(height / top) * HEIGHT}
          className="spread-bar"
        />
      ))}
      <line x1={0} x2={WIDTH} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} className="spread-axis" />
      {at.map((value, place) => (
        <g
          key={place}
          role="slider"
          tabIndex={0}
          aria-label={`Threshold ${place + 1}`}
          aria-valuemin={low}
          aria-valuemax={high}
          aria-valuenow={value}
          className="spread-handle"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            setHeld({ place, at: under(event) });
          }}
          onPointerMove={(event) => {
            if (held?.place !== place) return;
            const value = under(event);
            if (value === held.at) return;
            setHeld({ place, at: value });
            onTry(moved(place, value));
          }}
          onPointerUp={() => {
            if (held) onSet(moved(place, held.at));
            setHeld(null);
          }}
          onKeyDown={(event) => {
            const by = MOVES[event.key];
            if (by === undefined) return;
            event.preventDefault();
            onSet(moved(place, nudged(value, by * STEP * (high - low), spread.decimals, rounded)));
          }}
        >
          <rect x={x(value) - 8} y={-14} width={16} height={HEIGHT + 14} />
          <line x1={x(value)} x2={x(value)} y1={0} y2={HEIGHT} />
          <text x={x(value)} y={-3} textAnchor={anchorOf(x(value))}>
            {value}
          </text>
        </g>
      ))}
    </svg>
  );
}

const MOVES: Record<string, number> = {
  ArrowLeft: -0.1,
  ArrowRight: 0.1,
  PageDown: -1,
  PageUp: 1,
};

function anchorOf(at: number): "start" | "middle" | "end" {
  if (at < 24) return "start";
  return at > WIDTH - 24 ? "end" : "middle";
}

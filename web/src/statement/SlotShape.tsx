import type { Slot } from "../api/types";
import "./SlotShape.css";

const WIDTH = 180;
const HEIGHT = 48;

/** The curve of a term, small: its axes are under the figure. */
export function SlotShape({ shape }: { shape: NonNullable<Slot["shape"]> }) {
  const places = shape.x.map((x, k) => {
    const y = shape.y[k] ?? 0;
    return `${(2 + x * (WIDTH - 4)).toFixed(1)} ${(2 + (1 - y) * (HEIGHT - 4)).toFixed(1)}`;
  });
  return (
    <svg width={WIDTH} height={HEIGHT} className="slot-shape" role="img" aria-label={shape.label}>
      <path d={`M${places.join("L")}`} />
    </svg>
  );
}

import type { ReactNode } from "react";
import type { Finding } from "../../api/types";
import { fallingSteps } from "./stairs";
import "./SmallPicture.css";

const WIDTH = 128;
const HEIGHT = 64;

/** Both readings of an outcome as small curves, side by side, each over the choice that leads to it. */
export function SmallPicture({
  curves,
  under,
}: {
  curves: Finding["picture"];
  under: (choice: string) => ReactNode;
}) {
  if (curves.length === 0) return null;
  const end = Math.max(...curves.flatMap((c) => c.times), 1e-9);
  return (
    <div className="small-pictures">
      {curves.map((curve) => (
        <figure key={curve.name}>
          <svg
            width={WIDTH}
            height={HEIGHT}
            role="img"
            aria-label={`${curve.name}: ${text(curve)}`}
          >
            <path d={`M0 0V${HEIGHT - 1}H${WIDTH}`} className="small-axis" />
            <path
              d={fallingSteps(curve.times, curve.heights, end, WIDTH, HEIGHT)}
              className="small-curve"
            />
          </svg>
          <figcaption>{curve.choice ? under(curve.choice) : curve.name}</figcaption>
        </figure>
      ))}
    </div>
  );
}

function text(curve: Finding["picture"][number]): string {
  const last = curve.heights[curve.heights.length - 1] ?? 1;
  return `the curve ends at ${(100 * last).toFixed(0)}%`;
}

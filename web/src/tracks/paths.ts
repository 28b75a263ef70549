import { curveLinear, curveStepAfter, area as d3Area, line as d3Line } from "d3-shape";
import type { Area, Line } from "../api/types";

type Scale = (value: number) => number;

/** The x and y of a line as far as it is defined, a step line carried on to its end. */
function points(line: Pick<Line, "x" | "end" | "step">, y: readonly (number | null)[]) {
  const found: [number, number][] = [];
  for (let k = 0; k < y.length; k++) {
    const value = y[k];
    const x = line.x[k] as number;
    if (value === null || value === undefined) {
      // A step holds until the time at which it stops being defined.
      const last = found.at(-1);
      if (line.step && last) found.push([x, last[1]]);
      return found;
    }
    if (line.end !== null && line.end !== undefined && x > line.end) break;
    found.push([x, value]);
  }
  const last = found.at(-1);
  if (line.step && last && line.end !== null && line.end !== undefined && line.end > last[0])
    found.push([line.end, last[1]]);
  return found;
}

export function linePath(line: Line, x: Scale, y: Scale): string {
  const draw = d3Line<[number, number]>(
    (p) => x(p[0]),
    (p) => y(p[1]),
  ).curve(line.step ? curveStepAfter : curveLinear);
  return draw(points(line, line.y)) ?? "";
}

export function areaPath(area: Area, x: Scale, y: Scale): string {
  const low = points(area, area.low);
  const high = points(area, area.high);
  const both = low.slice(0, Math.min(low.length, high.length));
  const draw = d3Area<[number, number]>()
    .x((p) => x(p[0]))
    .y0((p) => y(p[1]))
    .y1((_, k) => y((high[k] as [number, number])[1]))
    .curve(area.step ? curveStepAfter : curveLinear);
  return draw(both) ?? "";
}

/** Where a line is last defined. */
export function lineEnd(line: Line): [number, number] | null {
  return points(line, line.y).at(-1) ?? null;
}

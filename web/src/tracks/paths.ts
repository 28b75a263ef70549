import { curveLinear, curveStepAfter, area as d3Area, line as d3Line } from "d3-shape";

type Place = (value: number) => number;
type Values = readonly (number | null)[];

export interface Run {
  x: Values;
  step: boolean;
  end: number | null;
}

/** The x and y of a line as far as it is defined, a step line carried on to its end. */
function points(line: Run, y: Values): [number, number][] {
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
    if (line.end !== null && x > line.end) break;
    found.push([x, value]);
  }
  const last = found.at(-1);
  if (line.step && last && line.end !== null && line.end > last[0]) found.push([line.end, last[1]]);
  return found;
}

export function linePath(line: Run, y: Values, px: Place, py: Place): string {
  const draw = d3Line<[number, number]>(
    (p) => px(p[0]),
    (p) => py(p[1]),
  ).curve(line.step ? curveStepAfter : curveLinear);
  return draw(points(line, y)) ?? "";
}

export function areaPath(area: Run, low: Values, high: Values, px: Place, py: Place): string {
  const below = points(area, low);
  const above = points(area, high);
  const draw = d3Area<[number, number]>()
    .x((p) => px(p[0]))
    .y0((p) => py(p[1]))
    .y1((_, k) => py((above[k] as [number, number])[1]))
    .curve(area.step ? curveStepAfter : curveLinear);
  return draw(below.slice(0, Math.min(below.length, above.length))) ?? "";
}

/** Where a line is last defined. */
export function lineEnd(line: Run, y: Values): [number, number] | null {
  return points(line, y).at(-1) ?? null;
}

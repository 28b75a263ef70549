import { scaleLinear, scaleLog } from "d3-scale";
import type { Axis } from "../api/types";

/** From a value to a pixel, and back. */
export interface Scale {
  (value: number): number;
  invert(pixel: number): number;
}

/** An axis along some pixels; ratios lie by their logarithm. */
export function scaleOf(axis: Axis, from: number, to: number): Scale {
  const scale = axis.form === "ratio" ? scaleLog() : scaleLinear();
  const high = axis.high > axis.low ? axis.high : axis.low + 1;
  return scale.domain([axis.low, high]).range([from, to]);
}

/** A scale that holds what lies past the ends of its axis at them. */
export function held(scale: Scale, axis: Axis): (value: number) => number {
  return (value) => scale(Math.min(Math.max(value, axis.low), axis.high));
}

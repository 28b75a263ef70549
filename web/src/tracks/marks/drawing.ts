import type { Axis } from "../../api/types";
import type { Scale } from "../scales";

/** Where marks are drawn: the scales of both axes, and the edges of the strip in pixels. */
export interface Place {
  x: Scale;
  y: Scale;
  across: Axis;
  up: Axis;
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** How strongly a ghost is drawn. */
export const GHOST = 0.25;
/** The fill of hatched parts; a figure defines it once. */
export const HATCHED = "url(#hatched)";

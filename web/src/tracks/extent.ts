/** From one place on an axis to another. */
export type Extent = [number, number];

/** A part of the axis is never shorter than this share of the whole. */
const FINEST = 1e-6;

export function whole(extent: Extent, limits: Extent): boolean {
  return extent[0] <= limits[0] && extent[1] >= limits[1];
}

/** Nearer (a factor below 1) or farther, so that one place stays where it is. */
export function zoomed(now: Extent, at: number, factor: number, limits: Extent): Extent {
  const span = (limits[1] - limits[0]) * FINEST;
  const scale = Math.max(factor, span / (now[1] - now[0]));
  return within([at - (at - now[0]) * scale, at + (now[1] - at) * scale], limits);
}

/** Along the axis by a share of what is shown. */
export function moved(now: Extent, by: number, limits: Extent): Extent {
  const span = now[1] - now[0];
  const shift = Math.min(Math.max(by * span, limits[0] - now[0]), limits[1] - now[1]);
  return [now[0] + shift, now[1] + shift];
}

function within([low, high]: Extent, limits: Extent): Extent {
  return [Math.max(low, limits[0]), Math.min(high, limits[1])];
}

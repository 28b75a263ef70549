/** Where things stand in a figure, in pixels: one place, so that all tracks share one axis. */
export const LEFT = 132;
export const RIGHT = 112;
export const AXIS_HEIGHT = 46;
export const COUNT_ROW = 19;
export const HEAD = 22;
export const PAD = 12;
/** What a track may be made smaller than by dragging its edge. */
export const LEAST_HEIGHT = 70;

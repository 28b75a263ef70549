/** A line that steps up at each x, from the floor to the right edge; all in pixels. */
export function stairs(
  x: readonly number[],
  y: readonly number[],
  floor: number,
  right: number,
): string {
  if (x.length === 0) return "";
  const steps = x.map((at, k) => (k === 0 ? `M${at} ${floor}V${y[0]}` : `H${at}V${y[k]}`));
  return `${steps.join("")}H${right}`;
}

/** The outline of bars between edges, standing on the floor; all in pixels. */
export function outline(edges: readonly number[], tops: readonly number[], floor: number): string {
  if (tops.length === 0) return "";
  const bars = tops.map((top, k) => `V${top}H${edges[k + 1]}`);
  return `M${edges[0]} ${floor}${bars.join("")}V${floor}`;
}

/** A curve that falls in steps over a picture of this width and height. */
export function fallingSteps(
  times: readonly number[],
  heights: readonly number[],
  end: number,
  width: number,
  height: number,
): string {
  return times
    .map((t, k) => {
      const x = (width * t) / end;
      const y = height - (height - 4) * (heights[k] ?? 0);
      return k === 0 ? `M${x} ${y}` : `H${x}V${y}`;
    })
    .join("");
}

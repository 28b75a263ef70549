import { type KeyboardEvent, type RefObject, useEffect } from "react";
import { LEFT } from "./layout";
import type { Scale } from "./scales";
import type { Shown } from "./useWindow";

const WHEEL_STEP = 0.0016;
const KEY_STEP = 0.7;
const MOVE = 0.25;

/** By wheel: with Ctrl it zooms at the pointer, sideways (or with Shift) it moves; else the page scrolls. */
export function useWheel(
  layers: RefObject<HTMLElement | null>,
  shown: Shown,
  x: Scale,
  right: number,
): void {
  useEffect(() => {
    const element = layers.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      const box = element.getBoundingClientRect();
      const at = event.clientX - box.left;
      if (at < LEFT || at > right) return;
      const zooms = event.ctrlKey || event.metaKey;
      const along = event.shiftKey ? event.deltaY || event.deltaX : event.deltaX;
      if (!zooms && (!shown.zoomed || along === 0)) return;
      event.preventDefault();
      if (zooms) shown.zoom(x.invert(at), Math.exp(event.deltaY * WHEEL_STEP));
      else shown.move(along / (right - LEFT));
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [layers, shown, x, right]);
}

/** Zooming and moving by keys, at the sand line: + and −, Page up and Page down, 0 for the whole. */
export function zoomByKey(event: KeyboardEvent, shown: Shown, sand: () => number): void {
  const acts: Record<string, () => void> = {
    "+": () => shown.zoom(sand(), KEY_STEP),
    "=": () => shown.zoom(sand(), KEY_STEP),
    "-": () => shown.zoom(sand(), 1 / KEY_STEP),
    "0": () => shown.reset(),
    PageUp: () => shown.move(-MOVE),
    PageDown: () => shown.move(MOVE),
  };
  const act = event.ctrlKey || event.metaKey || event.altKey ? undefined : acts[event.key];
  if (!act) return;
  event.preventDefault();
  act();
}

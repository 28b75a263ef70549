import { type KeyboardEvent, type RefObject, useEffect } from "react";
import { LEFT } from "./layout";
import type { Scale } from "./scales";
import type { Shown } from "./useWindow";

const WHEEL_STEP = 0.0016;
const KEY_STEP = 0.7;
const MOVE = 0.25;

/** Zooming and moving by wheel: up and down zooms at the pointer, sideways (or with shift) moves. */
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
      const along = event.shiftKey ? event.deltaY : event.deltaX;
      const out = event.deltaY > 0;
      // Of the whole axis nothing more can be shown: then the page scrolls.
      if (!shown.zoomed && (along !== 0 || out)) return;
      event.preventDefault();
      if (along !== 0) shown.move(along / (right - LEFT));
      else shown.zoom(x.invert(at), Math.exp(event.deltaY * WHEEL_STEP));
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

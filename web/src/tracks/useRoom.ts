import { type RefObject, useLayoutEffect, useState } from "react";

/** Below this the readings stand under the figure, and the page is as high as what it holds. */
const NARROW = "(max-width: 1100px)";
/** Of a page that scrolls as a whole, the share of the window that a figure may fill. */
const SHARE = 0.7;
const LEAST_WIDTH = 420;
/** Of views beside each other, the one that the figure belongs to. */
const COLUMN = ".view-column";

/**
 * The room for a figure: the width of the page or column around it and the height left there.
 * Both are taken from what the figure cannot change, or it would grow with itself.
 */
export function useRoom(frame: RefObject<HTMLElement | null>): { width: number; height: number } {
  const [room, setRoom] = useState({ width: 760, height: 560 });
  useLayoutEffect(() => {
    const page = frame.current?.closest("main");
    if (!page) return;
    const column = frame.current?.closest(COLUMN) ?? page;
    const narrow = window.matchMedia(NARROW);
    const measure = () => {
      const width = Math.max(column.clientWidth, LEAST_WIDTH);
      const height = narrow.matches ? Math.round(window.innerHeight * SHARE) : page.clientHeight;
      setRoom((now) => (now.width === width && now.height === height ? now : { width, height }));
    };
    const watch = new ResizeObserver(measure);
    watch.observe(page);
    watch.observe(column);
    window.addEventListener("resize", measure);
    return () => {
      watch.disconnect();
      window.removeEventListener("resize", measure);
    };
  }, [frame]);
  return room;
}

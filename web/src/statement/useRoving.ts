import { type FocusEvent, type KeyboardEvent, useLayoutEffect, useRef } from "react";

const FORTH = ["ArrowRight", "ArrowDown"];
const BACK = ["ArrowLeft", "ArrowUp"];

/**
 * One stop of the Tab key for many things: the arrow keys go from one to the next, Home and End to
 * the ends, and Tab comes back to the one that was left.
 */
export function useRoving<E extends HTMLElement>(selector: string) {
  const group = useRef<E>(null);
  const at = useRef(0);
  const items = () => [...(group.current?.querySelectorAll<HTMLElement>(selector) ?? [])];
  const settle = () => {
    const all = items();
    const chosen = Math.min(at.current, all.length - 1);
    for (const [k, item] of all.entries()) item.tabIndex = k === chosen ? 0 : -1;
  };
  useLayoutEffect(settle);
  const onKeyDown = (event: KeyboardEvent) => {
    const all = items();
    const here = all.indexOf(document.activeElement as HTMLElement);
    if (here < 0 || event.ctrlKey || event.altKey || event.metaKey) return;
    const by = FORTH.includes(event.key) ? 1 : BACK.includes(event.key) ? -1 : 0;
    const to =
      event.key === "Home" ? 0 : event.key === "End" ? all.length - 1 : by ? here + by : null;
    if (to === null) return;
    event.preventDefault();
    all[(to + all.length) % all.length]?.focus();
  };
  const onFocus = (event: FocusEvent) => {
    const here = items().indexOf(event.target as HTMLElement);
    if (here >= 0) at.current = here;
    settle();
  };
  return { ref: group, onKeyDown, onFocus };
}

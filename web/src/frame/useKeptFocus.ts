import { useEffect } from "react";

const KEPT = 12;

/** Something that has had the focus, and what was around it, from the inside out. */
interface Place {
  at: HTMLElement;
  around: HTMLElement[];
}

/**
 * Focus is never dropped: when what had it goes away, the nearest part of the page around it takes
 * it; when it was only disabled for a while, it gets it back.
 */
export function useKeptFocus(): void {
  useEffect(() => {
    const places: Place[] = [];
    const remember = (event: FocusEvent) => {
      const at = event.target as HTMLElement;
      const around: HTMLElement[] = [];
      for (let node = at.parentElement; node && node !== document.body; node = node.parentElement)
        around.push(node);
      places.unshift({ at, around });
      places.length = Math.min(places.length, KEPT);
    };
    const forget = () => {
      places.length = 0; // the user has pointed elsewhere
    };
    const mend = () => {
      if (document.activeElement !== document.body) return;
      for (const { at, around } of places) {
        if (at.isConnected && (at as HTMLButtonElement).disabled) return; // it comes back
        const home = at.isConnected ? at : around.find((node) => node.isConnected);
        if (!home) continue; // a dialog that has been closed: what was before it
        if (home !== at && !home.hasAttribute("tabindex")) home.tabIndex = -1;
        home.focus({ preventScroll: true });
        return;
      }
    };
    const observer = new MutationObserver(() => window.setTimeout(mend));
    observer.observe(document.body, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ["disabled"],
    });
    document.addEventListener("focusin", remember);
    document.addEventListener("pointerdown", forget);
    return () => {
      observer.disconnect();
      document.removeEventListener("focusin", remember);
      document.removeEventListener("pointerdown", forget);
    };
  }, []);
}

import type { CSSProperties } from "react";
import tones from "../../../src/hourglass/analysis/shared/figure/tones.json";
import type { Mode } from "./theme";

export type TonePreset = "house" | "grey" | "distinct";

/** Groups are distinguished by dash and label as well as colour; a tone keeps both in every view. */
const GROUPS = tones.groups;

/** The tones of figures as properties of the page, from the one file that print has them from too. */
export function setTones(mode: Mode): void {
  const style = document.documentElement.style;
  style.setProperty("--tone-ink", tones.ink[mode]);
  style.setProperty("--bins", tones.dots[mode]);
  for (const [k, group] of GROUPS.entries()) {
    style.setProperty(`--tone-${k}`, group[mode]);
    style.setProperty(`--grey-${k}`, mode === "dark" ? group.grey_dark : group.grey);
    style.setProperty(`--distinct-${k}`, mode === "dark" ? group.distinct_dark : group.distinct);
  }
}

/** The properties that give a figure the tones of a preset in place of those of the page. */
export function presetTones(preset: TonePreset): CSSProperties | undefined {
  if (preset === "house") return undefined;
  return Object.fromEntries(GROUPS.map((_, k) => [`--tone-${k}`, `var(--${preset}-${k})`]));
}

export const GROUP_TONES: readonly string[] = GROUPS.map((group) => group.name);

export function toneColour(tone: number): string {
  return tone < 0 ? "var(--tone-ink)" : `var(--tone-${tone % GROUPS.length})`;
}

export function toneDash(tone: number): string | undefined {
  const dash = tone < 0 ? [] : (GROUPS[tone % GROUPS.length]?.dash ?? []);
  return dash.length ? dash.join(" ") : undefined;
}

import type { CSSProperties } from "react";
import { useStudy } from "../api/queries";
import { presetTones } from "../theme/tones";

/** The properties that give a stage the tones chosen for the figure of a view. */
export function useChosenPreset(study: string, view: string): CSSProperties | undefined {
  return presetTones(useStudy(study).data?.figures[view]?.preset ?? "house");
}

import { createContext, useContext } from "react";

/** The tones that somebody has chosen for groups in place of their own, by their own. */
export const ChosenTones = createContext<ReadonlyMap<number, number>>(new Map());

/** The name of the class of a group's tone, as somebody has chosen it. */
export function useToneClass(): (tone: number) => string {
  const chosen = useContext(ChosenTones);
  return (tone) => `tone-${chosen.get(tone) ?? tone}`;
}

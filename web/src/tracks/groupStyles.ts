import { createContext } from "react";

/** Opens the menu of a group at its label, if the group can be drawn otherwise. */
export interface GroupLabels {
  known: (label: string) => boolean;
  open: (label: string, anchor: Element) => void;
}

export const GroupLabelsContext = createContext<GroupLabels | null>(null);

import { sharedValue } from "./sharedValue";

/** A change that was refused because the study was changed meanwhile, until the user answers. */
export interface Conflict {
  changed: readonly string[];
  answer: (again: boolean) => void;
}

const open = sharedValue<Conflict | null>(null);

/** Ask whether to make the change again; what was changed meanwhile is shown. */
export function askAgain(changed: readonly string[]): Promise<boolean> {
  return new Promise((resolve) => {
    open.set({
      changed,
      answer: (again) => {
        open.set(null);
        resolve(again);
      },
    });
  });
}

export const useConflict = open.use;

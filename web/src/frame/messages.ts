import { sharedValue } from "../api/sharedValue";

/** Something that was done, stated at the foot of the page; a deleted study can be brought back from it. */
export interface Message {
  words: string;
  restore?: string;
}

const shown = sharedValue<Message | null>(null);

export const showMessage = shown.set;
export const useMessage = shown.use;

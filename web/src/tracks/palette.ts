/** Groups are told apart by dash and label as well as colour; a tone keeps both in every view. */
const DASHES = ["7 3", "", "2 3", "11 3 2 3", "4 2", "1 2"] as const;
const TONES = 6;

export function toneColour(tone: number): string {
  return tone < 0 ? "var(--tone-ink)" : `var(--tone-${tone % TONES})`;
}

export function toneDash(tone: number): string | undefined {
  return tone < 0 ? undefined : DASHES[tone % TONES] || undefined;
}

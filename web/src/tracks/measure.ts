/** How wide words are on the page, in pixels. */
const FONT = "13px 'Source Sans 3', 'Segoe UI', sans-serif";
const BOLD = `600 ${FONT}`;
/** Where nothing can be measured, as in a test without a page. */
const LETTER = 6.4;
const known = new Map<string, number>();
let pen: CanvasRenderingContext2D | null | undefined;

export function widthOf(words: string, bold = false): number {
  const key = `${bold}${words}`;
  const found = known.get(key);
  if (found !== undefined) return found;
  if (pen === undefined)
    pen =
      typeof document === "undefined" ? null : document.createElement("canvas").getContext("2d");
  if (pen) pen.font = bold ? BOLD : FONT;
  const wide = pen ? pen.measureText(words).width : LETTER * words.length;
  // Before its font has been loaded, a page would measure another.
  if (!pen || document.fonts.status === "loaded") known.set(key, wide);
  return wide;
}

/** Words of at most so many letters, the last an ellipsis where some are left out. */
export function shortened(words: string, letters: number): string {
  return words.length > letters ? `${words.slice(0, letters - 1).trimEnd()}…` : words;
}

/** Words in at most so many lines of so many letters. */
export function wrapped(words: string, letters: number, most: number): string[] {
  const lines: string[] = [];
  for (const word of words.split(" ")) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + 1 + word.length <= letters)
      lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  const shown =
    lines.length > most ? [...lines.slice(0, most - 1), lines.slice(most - 1).join(" ")] : lines;
  return shown.map((line) => shortened(line, letters));
}

const TIED = /(?<=\b[pP]) (?=[<>=])|(?<=[<>=]) (?=[\d−])/g;

/** Text in which "p < 0.001" and its like are not broken over two lines, as in a saved report. */
export function tied(text: string): string {
  return text.replace(TIED, "\u00a0");
}

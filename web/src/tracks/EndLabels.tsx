import { type KeyboardEvent, type MouseEvent, useContext } from "react";
import type { MarkOf, Track } from "../api/types";
import { toneColour } from "../theme/tones";
import { apart } from "./apart";
import { GroupLabelsContext } from "./groupStyles";
import { LABEL_GAP, LABEL_LETTERS, LABEL_LINE, LABEL_LINES } from "./layout";
import type { Place } from "./marks/drawing";
import { shortened, wrapped } from "./measure";
import { lineEnd } from "./paths";

/** The lines whose ends bear their names. */
export function namedLines(track: Track): MarkOf<"line">[] {
  return track.marks.filter((mark): mark is MarkOf<"line"> => mark.kind === "line" && mark.named);
}

/** What makes a label one that can be chosen, by pointer and by keys. */
function asButton(label: string, open: (anchor: Element) => void) {
  return {
    className: "end-label choice",
    role: "button",
    tabIndex: 0,
    "aria-haspopup": "dialog" as const,
    "aria-label": label,
    onClick: (event: MouseEvent) => open(event.currentTarget as Element),
    onKeyDown: (event: KeyboardEvent) => {
      if (event.key !== "Enter" && event.key !== " ") return;
      event.preventDefault();
      open(event.currentTarget as Element);
    },
  };
}

/** Each curve's name at its end, moved apart where they would overlap. */
export function EndLabels({ track, place }: { track: Track; place: Place }) {
  const ends = namedLines(track).flatMap((line) => {
    const end = lineEnd(line, line.y);
    return end ? [{ line, at: place.y(end[1]) }] : [];
  });
  const groups = useContext(GroupLabelsContext);
  const room = place.bottom - place.top;
  let words = ends.map(({ line }) => wrapped(line.label, LABEL_LETTERS, LABEL_LINES));
  // A line each where two have no room.
  if (words.flat().length * LABEL_LINE > room)
    words = ends.map(({ line }) => [shortened(line.label, LABEL_LETTERS)]);
  const middles = apart(
    ends.map((end) => Math.min(Math.max(end.at, place.top), place.bottom)),
    words.map((lines) => lines.length * LABEL_LINE),
    place.top - LABEL_LINE / 2,
    place.bottom + LABEL_LINE / 2,
  );
  return ends.map(({ line }, k) => (
    <text
      key={k} // a name can be changed in the menu that stands at it
      fill={toneColour(line.tone)}
      {...(track.grouped && groups?.known(line.label)
        ? asButton(`How ${line.label} is drawn`, (anchor) => groups.open(line.label, anchor))
        : { className: "end-label" })}
    >
      <title>{line.label}</title>
      {words[k]?.map((word, w) => (
        <tspan
          key={word}
          x={place.right + LABEL_GAP}
          y={(middles[k] ?? 0) + 4 + (w - ((words[k]?.length ?? 1) - 1) / 2) * LABEL_LINE}
        >
          {word}
        </tspan>
      ))}
    </text>
  ));
}

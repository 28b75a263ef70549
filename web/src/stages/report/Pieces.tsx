import Button from "@mui/material/Button";
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { ReportPiece, ReportWords } from "../../api/types";
import { movedBefore, movedBy } from "./moved";
import { PieceView } from "./PieceView";

/** Pixels from the edge of the page at which a piece that is dragged moves the page on. */
const EDGE = 60;
const STEP = 24;

function scrollAt(page: HTMLElement | null | undefined, y: number) {
  if (!page) return;
  const box = page.getBoundingClientRect();
  if (y > box.bottom - EDGE) page.scrollBy(0, STEP);
  else if (y < box.top + EDGE) page.scrollBy(0, -STEP);
}

/** The pieces of the report in their order: dragged by their margin, left out, their words edited. */
export function Pieces({
  pieces,
  order,
  onOrder,
  onLeaveOut,
  onWrite,
}: {
  pieces: readonly ReportPiece[];
  order: readonly string[];
  onOrder: (order: string[]) => void;
  onLeaveOut: (key: string) => void;
  onWrite: (words: ReportWords, text: string | null) => void;
}) {
  const list = useRef<HTMLOListElement>(null);
  const [drag, setDrag] = useState<{ key: string; before: string | null } | null>(null);
  const shown = pieces.map((piece) => piece.key);
  const beforeOf = (y: number) => {
    const items = [...(list.current?.children ?? [])] as HTMLElement[];
    const at = items.findIndex((item) => {
      const box = item.getBoundingClientRect();
      return y < box.top + box.height / 2;
    });
    return at < 0 ? null : (shown[at] ?? null);
  };
  const drop = () => {
    if (drag && drag.before !== drag.key) onOrder(movedBefore(order, drag.key, drag.before));
    setDrag(null);
  };
  return (
    <ol className="report-pieces" ref={list}>
      {pieces.map((piece) => (
        <li
          key={piece.key}
          id={`piece-${piece.key}`}
          className={[
            "report-piece",
            drag?.key === piece.key ? "dragged" : "",
            drag && drag.before === piece.key && drag.key !== piece.key ? "drop-before" : "",
          ].join(" ")}
        >
          <div className="piece-margin">
            <button
              type="button"
              className="piece-handle"
              aria-label={`Move ${piece.title.text}: arrow up or down`}
              onPointerDown={(event: PointerEvent<HTMLButtonElement>) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                setDrag({ key: piece.key, before: piece.key });
              }}
              onPointerMove={(event) => {
                if (!drag) return;
                scrollAt(list.current?.closest("main"), event.clientY);
                setDrag({ key: drag.key, before: beforeOf(event.clientY) });
              }}
              onPointerUp={drop}
              onPointerCancel={() => setDrag(null)}
              onKeyDown={(event: KeyboardEvent) => {
                const by = event.key === "ArrowUp" ? -1 : event.key === "ArrowDown" ? 1 : 0;
                if (!by) return;
                event.preventDefault();
                onOrder(movedBy(order, shown, piece.key, by));
              }}
            >
              <span aria-hidden="true">⠿</span>
            </button>
            <Button
              size="small"
              aria-label={`Leave out ${piece.title.text}`}
              onClick={() => onLeaveOut(piece.key)}
            >
              Leave out
            </Button>
          </div>
          <PieceView piece={piece} onWrite={onWrite} />
        </li>
      ))}
    </ol>
  );
}

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

/** The place of the first piece of a list whose middle lies below; −1 past the last. */
function firstBelow(list: HTMLElement | null, y: number): number {
  return [...(list?.children ?? [])].findIndex((item) => {
    const box = item.getBoundingClientRect();
    return y < box.top + box.height / 2;
  });
}

/** The pieces of the report in their order: dragged by their margin, left out, their words edited. */
export function Pieces({
  study,
  pieces,
  order,
  onOrder,
  onLeaveOut,
  onWrite,
}: {
  study: string;
  pieces: readonly ReportPiece[];
  order: readonly string[];
  onOrder: (order: string[]) => void;
  onLeaveOut: (key: string) => void;
  onWrite: (words: ReportWords, text: string | null) => void;
}) {
  const list = useRef<HTMLOListElement>(null);
  const [drag, setDrag] = useState<{ key: string; before: string | null } | null>(null);
  const shown = pieces.map((piece) => piece.key);
  const beforeOf = (y: number) => shown[firstBelow(list.current, y)] ?? null;
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
            <Handle
              title={piece.title.text}
              onTake={() => setDrag({ key: piece.key, before: piece.key })}
              onMove={(y) => {
                if (!drag) return;
                scrollAt(list.current?.closest("main"), y);
                setDrag({ key: drag.key, before: beforeOf(y) });
              }}
              onDrop={drop}
              onLetGo={() => setDrag(null)}
              onArrow={(by) => onOrder(movedBy(order, shown, piece.key, by))}
            />
            <Button
              size="small"
              aria-label={`Leave out ${piece.title.text}`}
              onClick={() => onLeaveOut(piece.key)}
            >
              Leave out
            </Button>
          </div>
          <PieceView study={study} piece={piece} onWrite={onWrite} />
        </li>
      ))}
    </ol>
  );
}

interface HandleProps {
  title: string;
  onTake: () => void;
  onMove: (y: number) => void;
  onDrop: () => void;
  onLetGo: () => void;
  onArrow: (by: 1 | -1) => void;
}

/** What a piece is dragged by, or moved with the arrows. */
function Handle({ title, onTake, onMove, onDrop, onLetGo, onArrow }: HandleProps) {
  return (
    <button
      type="button"
      className="piece-handle"
      aria-label={`Move ${title}: arrow up or down`}
      onPointerDown={(event: PointerEvent<HTMLButtonElement>) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        onTake();
      }}
      onPointerMove={(event) => onMove(event.clientY)}
      onPointerUp={onDrop}
      onPointerCancel={onLetGo}
      onKeyDown={(event: KeyboardEvent) => {
        const by = event.key === "ArrowUp" ? -1 : event.key === "ArrowDown" ? 1 : 0;
        if (!by) return;
        event.preventDefault();
        onArrow(by);
      }}
    >
      <span aria-hidden="true">⠿</span>
    </button>
  );
}

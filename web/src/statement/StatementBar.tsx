import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import type { Sentence, Slot } from "../api/types";
import { SlotEditor } from "./SlotEditor";
import { useRoving } from "./useRoving";
import "./StatementBar.css";

/** The statement: one sentence that is the analysis, its marked words to be chosen. */
export function StatementBar({
  sentence,
  held,
  onSet,
  onTry,
}: {
  sentence: Sentence;
  /** It is of what was said before: nothing in it can be chosen, and the focus stays where it is. */
  held?: boolean | undefined;
  onSet: (field: string, value: unknown) => void;
  /** Something is being tried, and not chosen yet. */
  onTry?: ((field: string, value: unknown) => void) | undefined;
}) {
  const [open, setOpen] = useState<{ id: string; anchor: HTMLElement } | null>(null);
  const roving = useRoving<HTMLParagraphElement>("button");
  const asked = useAskedSlot();
  useEffect(() => {
    if (!asked) return;
    const word = roving.ref.current?.querySelector<HTMLElement>(
      `[data-slot="${CSS.escape(asked)}"]`,
    );
    if (!word) return;
    word.focus();
    setOpen({ id: asked, anchor: word });
  }, [asked, roving.ref]);
  const slot = sentence.parts.find((p) => p.slot?.id === open?.id)?.slot;
  return (
    <>
      <p className="statement" id="statement" tabIndex={-1} {...roving}>
        {sentence.parts.map((part, k) =>
          part.slot ? (
            <SlotWord
              key={part.slot.id}
              slot={part.slot}
              held={held}
              onOpen={(anchor) => setOpen({ id: part.slot?.id ?? "", anchor })}
            />
          ) : (
            <span key={k}>{part.words}</span>
          ),
        )}
      </p>
      {open && slot && !held ? (
        <SlotEditor
          slot={slot}
          anchor={open.anchor}
          onClose={() => setOpen(null)}
          onSet={(field, value, stay) => {
            if (!stay) setOpen(null);
            onSet(field, value);
          }}
          onTry={(field, value) => onTry?.(field, value)}
        />
      ) : null}
    </>
  );
}

/** The slot that somebody has asked for by name on the way here; each asking is one of its own. */
function useAskedSlot(): string | undefined {
  const { state, key } = useLocation();
  const [done, setDone] = useState("");
  const asked = (state as { slot?: string } | null)?.slot;
  useEffect(() => setDone(key), [key]);
  return done === key ? asked : undefined;
}

function SlotWord({
  slot,
  held,
  onOpen,
}: {
  slot: Slot;
  held: boolean | undefined;
  onOpen: (anchor: HTMLElement) => void;
}) {
  return (
    <button
      type="button"
      className={`slot ${slot.state}`}
      aria-haspopup="dialog"
      aria-label={slot.state === "add" ? slot.title : `${slot.title}: ${slot.label}`}
      data-slot={slot.id}
      aria-disabled={held}
      onClick={(event) => (held ? undefined : onOpen(event.currentTarget))}
    >
      {slot.label}
    </button>
  );
}

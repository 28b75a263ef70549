import { Fragment, useEffect, useState } from "react";
import { useLocation } from "react-router";
import type { Sentence, Slot } from "../api/types";
import { SlotEditor } from "./SlotEditor";
import { useRoving } from "./useRoving";
import "./StatementBar.css";

/** What has just been added, where in the sentence; the server has not worded it yet. */
export interface Added {
  slot: string;
  label: string;
}

export type OnSet = (field: string, value: unknown, added?: Added) => void;

/** The statement: one sentence that is the analysis, its marked words to be chosen. */
export function StatementBar({
  sentence,
  held,
  added = [],
  onSet,
  onTry,
}: {
  sentence: Sentence;
  /** What is on its way into it. */
  added?: readonly Added[] | undefined;
  /** It is of what was stated before: nothing in it can be chosen, and the focus stays where it is. */
  held?: boolean | undefined;
  onSet: OnSet;
  /** Something is being tried, and not chosen yet. */
  onTry?: ((field: string, value: unknown) => void) | undefined;
}) {
  const [open, setOpen] = useState<{ id: string; anchor: HTMLElement } | null>(null);
  const roving = useRoving<HTMLParagraphElement>("button");
  const requested = useRequestedSlot();
  useEffect(() => {
    const wanted = requested && `[data-slot="${CSS.escape(requested)}"]`;
    const word = wanted && roving.ref.current?.querySelector<HTMLElement>(wanted);
    if (!word) return;
    word.focus();
    setOpen({ id: requested, anchor: word });
  }, [requested, roving.ref]);
  const slot = sentence.parts.find((p) => p.slot?.id === open?.id)?.slot;
  return (
    <>
      <p className="statement" id="statement" tabIndex={-1} {...roving}>
        {sentence.parts.map((part, k) =>
          part.slot ? (
            <Fragment key={part.slot.id}>
              <OnItsWay added={added} slot={part.slot.id} />
              <SlotWord
                slot={part.slot}
                held={held}
                onOpen={(anchor) => setOpen({ id: part.slot?.id ?? "", anchor })}
              />
            </Fragment>
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
          onSet={(field, value, how) => {
            if (!how?.stay) setOpen(null);
            onSet(field, value, how?.adds ? { slot: slot.id, label: how.adds } : undefined);
          }}
          onTry={(field, value) => onTry?.(field, value)}
        />
      ) : null}
    </>
  );
}

/** What has been added to a slot, and is not worded yet. */
function OnItsWay({ added, slot }: { added: readonly Added[]; slot: string }) {
  return added
    .filter((one) => one.slot === slot)
    .map((one) => (
      <span key={one.label} className="added">
        {one.label}{" "}
      </span>
    ));
}

/** The slot that somebody has requested by name on the way here; each request is one of its own. */
function useRequestedSlot(): string | undefined {
  const { state, key } = useLocation();
  const [done, setDone] = useState("");
  const requested = (state as { slot?: string } | null)?.slot;
  useEffect(() => setDone(key), [key]);
  return done === key ? requested : undefined;
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

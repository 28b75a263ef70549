import { useState } from "react";
import type { Sentence, Slot } from "../api/types";
import { SlotEditor } from "./SlotEditor";
import "./StatementBar.css";

/** The statement: one sentence that is the analysis, its marked words to be chosen. */
export function StatementBar({
  sentence,
  onSet,
}: {
  sentence: Sentence;
  onSet: (field: string, value: unknown) => void;
}) {
  const [open, setOpen] = useState<{ id: string; anchor: HTMLElement } | null>(null);
  const slot = sentence.parts.find((p) => p.slot?.id === open?.id)?.slot;
  return (
    <>
      <p className="statement">
        {sentence.parts.map((part, k) =>
          part.slot ? (
            <SlotWord
              key={part.slot.id}
              slot={part.slot}
              onOpen={(anchor) => setOpen({ id: part.slot?.id ?? "", anchor })}
            />
          ) : (
            <span key={k}>{part.words}</span>
          ),
        )}
      </p>
      {open && slot ? (
        <SlotEditor
          slot={slot}
          anchor={open.anchor}
          onClose={() => setOpen(null)}
          onSet={(field, value) => {
            setOpen(null);
            onSet(field, value);
          }}
        />
      ) : null}
    </>
  );
}

function SlotWord({ slot, onOpen }: { slot: Slot; onOpen: (anchor: HTMLElement) => void }) {
  return (
    <button
      type="button"
      className={`slot ${slot.state}`}
      aria-haspopup="dialog"
      aria-label={slot.state === "add" ? slot.title : `${slot.title}: ${slot.label}`}
      data-slot={slot.id}
      onClick={(event) => onOpen(event.currentTarget)}
    >
      {slot.label}
    </button>
  );
}

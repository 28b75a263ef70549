import Button from "@mui/material/Button";
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from "react";
import type { ReportWords } from "../../api/types";

/** Words of the report, edited in place; those that somebody wrote are marked as such. */
export function EditableWords({
  words,
  as: Tag = "p",
  className = "",
  children,
  onWrite,
}: {
  words: ReportWords;
  as?: "p" | "h2";
  className?: string;
  /** What is read in their place: the same words with their sentences apart. */
  children?: ReactNode;
  /** The words to stand there; null for those that are made. */
  onWrite: (words: ReportWords, text: string | null) => void;
}) {
  const [editing, setEditing] = useState(false);
  const write = (text: string | null) => {
    setEditing(false);
    if (text !== words.text) onWrite(words, text);
  };
  if (editing)
    return <WordsEditor words={words} onWrite={write} onClose={() => setEditing(false)} />;
  return (
    <div className={words.edited ? "words authored" : "words"}>
      <Tag className={className}>
        {children ?? words.text}
        <button type="button" className="edit-words" onClick={() => setEditing(true)}>
          Edit<span className="sr">: {words.text.slice(0, 60)}</span>
        </button>
      </Tag>
      {words.edited ? <p className="authored-mark">the author’s words</p> : null}
      {words.doubt ? (
        <div className="words-doubt" role="status">
          <p>{words.doubt}</p>
          <p className="quiet">Made now: {words.made}</p>
          <Button size="small" onClick={() => onWrite(words, null)}>
            Use the words made now
          </Button>
          <Button size="small" onClick={() => onWrite(words, words.text)}>
            Keep mine, they are right
          </Button>
        </div>
      ) : null}
    </div>
  );
}

function WordsEditor({
  words,
  onWrite,
  onClose,
}: {
  words: ReportWords;
  onWrite: (text: string | null) => void;
  onClose: () => void;
}) {
  const [text, setText] = useState(words.text);
  const box = useRef<HTMLTextAreaElement>(null);
  useEffect(() => box.current?.focus(), []);
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Escape") onClose();
    if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) onWrite(text);
  };
  return (
    <div className="words-editor">
      <textarea
        ref={box}
        aria-label="Words of the report"
        value={text}
        rows={Math.max(2, Math.ceil(text.length / 90))}
        maxLength={20_000}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={onKeyDown}
      />
      <p>
        <Button size="small" variant="contained" onClick={() => onWrite(text)}>
          Keep these words
        </Button>
        {words.edited ? (
          <Button size="small" onClick={() => onWrite(null)}>
            As the results word it
          </Button>
        ) : null}
        <Button size="small" onClick={onClose}>
          Cancel
        </Button>
      </p>
    </div>
  );
}

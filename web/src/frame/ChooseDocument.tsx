import Button from "@mui/material/Button";
import { useRef } from "react";

/** A button that chooses a JSON document; what is chosen can be chosen again. */
export function ChooseDocument({
  words,
  label,
  variant,
  onChosen,
}: {
  words: string;
  /** What the document is, for those who do not see the button. */
  label: string;
  variant?: "outlined";
  /** The document as it was read, or the name of a file that is none. */
  onChosen: (document: unknown, unreadable: string | null) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const take = async (file: File | undefined) => {
    if (!file) return;
    try {
      onChosen(JSON.parse(await file.text()), null);
    } catch {
      onChosen(null, file.name);
    }
    if (input.current) input.current.value = "";
  };
  return (
    <>
      <Button variant={variant ?? "text"} onClick={() => input.current?.click()}>
        {words}
      </Button>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="sr"
        tabIndex={-1}
        aria-label={label}
        onChange={(event) => void take(event.target.files?.[0])}
      />
    </>
  );
}

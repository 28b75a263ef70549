import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Slot } from "../api/types";
import "./EntryField.css";

type Entry = NonNullable<Slot["entry"]>;

/** A value typed into a slot: text, a number, or several times. */
export function EntryField({ entry, onSet }: { entry: Entry; onSet: (value: unknown) => void }) {
  const [text, setText] = useState(entry.value);
  const [wrong, setWrong] = useState("");
  const take = () => {
    const read = READERS[entry.kind](text);
    if (typeof read === "object" && read !== null && "wrong" in read) setWrong(read.wrong);
    else onSet(read);
  };
  return (
    <div className="entry">
      <TextField
        label={entry.label}
        value={text}
        autoFocus
        type={entry.kind === "date" ? "date" : "text"}
        slotProps={entry.kind === "date" ? { inputLabel: { shrink: true } } : {}}
        error={wrong !== ""}
        helperText={wrong}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          // The focus goes back to the slot, which must not take the same key as its own.
          event.preventDefault();
          take();
        }}
      />
      <Button variant="outlined" onClick={take}>
        Set
      </Button>
    </div>
  );
}

type Read = string | number | number[] | { size: number; at: number } | { wrong: string };

const READERS: Record<Entry["kind"], (text: string) => Read> = {
  text: (text) => text.trim() || { wrong: "Write a word or two." },
  number: (text) => {
    const value = Number(text.replace(",", "."));
    return value > 0 && Number.isFinite(value) ? value : { wrong: "Write a number above 0." };
  },
  value: (text) => {
    const value = Number(text.trim().replace(",", ".").replace("−", "-") || Number.NaN);
    return Number.isFinite(value) ? value : { wrong: "Write a number." };
  },
  date: (text) =>
    /^\d{4}-\d{2}-\d{2}$/.test(text) ? text : { wrong: "Write a date such as 2021-04-30." },
  numbers: (text) => {
    const found = numbersIn(text);
    if (!found.every(Number.isFinite)) return { wrong: "Write numbers, set apart by commas." };
    if (found.length > 5) return { wrong: "At most five thresholds." };
    return [...new Set(found)].sort((a, b) => a - b);
  },
  scores: (text) => {
    const found = numbersIn(text);
    return found.length > 1 && found.every(Number.isFinite)
      ? found
      : { wrong: "Write a number for each group, set apart by commas." };
  },
  pair: (text) => {
    const [points = Number.NaN, at = Number.NaN, ...more] = numbersIn(text);
    if (!(points > 0 && points < 100 && at > 0) || more.length)
      return { wrong: "Write percentage points and a time, such as 5, 24." };
    return { size: points / 100, at };
  },
  times: (text) => {
    const times = numbersIn(text);
    if (times.some((t) => !Number.isFinite(t) || t < 0))
      return { wrong: "Write times of 0 or more, set apart by commas." };
    if (times.length > 12) return { wrong: "At most twelve times." };
    return [...new Set(times)].sort((a, b) => a - b);
  },
};

/** Numbers set apart by commas, semicolons or spaces; a minus may be the typographic one. */
function numbersIn(text: string): number[] {
  return text
    .replace(/−/g, "-")
    .split(/[\s;,]+/)
    .filter(Boolean)
    .map(Number);
}

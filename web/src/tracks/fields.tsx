import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Figure, PrintSettings } from "../api/types";
import type { TonePreset } from "../theme/tones";

const TONES: readonly { value: TonePreset; label: string }[] = [
  { value: "house", label: "House tones" },
  { value: "grey", label: "Greyscale" },
  { value: "distinct", label: "For colour-blind readers" },
];

interface Settable {
  settings: PrintSettings;
  onChange: (change: Partial<PrintSettings>) => void;
}

/** Which tones the groups of a figure have. */
export function TonesField({ settings, onChange }: Settable) {
  return (
    <TextField
      select
      label="Tones"
      value={settings.preset}
      onChange={(event) => onChange({ preset: event.target.value as TonePreset })}
    >
      {TONES.map((tone) => (
        <MenuItem key={tone.value} value={tone.value}>
          {tone.label}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** The title of a figure, the words of its axis, and the headings of some of its tracks. */
export function HeadingFields({
  figure,
  tracks,
  settings,
  onChange,
}: Settable & { figure: Figure; tracks: readonly string[] }) {
  return (
    <>
      <WordsField label="Title" value={settings.title} set={(title) => onChange({ title })} />
      <WordsField
        label="Words of the axis"
        own={figure.across.label}
        value={settings.across}
        set={(across) => onChange({ across })}
      />
      {figure.tracks
        .filter((track) => tracks.includes(track.id))
        .map((track) => (
          <WordsField
            key={track.id}
            label={`Heading of ${track.title}`}
            own={track.title}
            value={settings.titles[track.id]}
            set={(title) => onChange({ titles: { ...settings.titles, [track.id]: title } })}
          />
        ))}
    </>
  );
}

export function Tick({
  label,
  on,
  set,
}: {
  label: string;
  on: boolean;
  set: (on: boolean) => void;
}) {
  return (
    <FormControlLabel
      label={label}
      control={
        <Checkbox size="small" checked={on} onChange={(event) => set(event.target.checked)} />
      }
    />
  );
}

/** Words in place of the figure's own, which stand there until somebody writes others. */
export function WordsField({
  label,
  own = "",
  value = "",
  set,
}: {
  label: string;
  own?: string;
  value?: string | undefined;
  set: (words: string) => void;
}) {
  return (
    <TextField
      label={label}
      placeholder={own}
      value={value}
      slotProps={{ inputLabel: { shrink: true } }}
      onChange={(event) => set(event.target.value)}
    />
  );
}

/** A number that is taken over once it is one. */
export function NumberField({
  label,
  value,
  empty = "",
  set,
}: {
  label: string;
  value: number | null;
  empty?: string;
  set: (value: number | null) => void;
}) {
  const [text, setText] = useState(value === null ? "" : String(value));
  return (
    <TextField
      label={label}
      value={text}
      placeholder={empty}
      slotProps={{ htmlInput: { inputMode: "decimal" }, inputLabel: { shrink: true } }}
      onChange={(event) => {
        setText(event.target.value);
        const typed = Number.parseFloat(event.target.value.replace(",", "."));
        if (event.target.value.trim() === "") set(null);
        else if (Number.isFinite(typed) && typed > 0) set(typed);
      }}
    />
  );
}

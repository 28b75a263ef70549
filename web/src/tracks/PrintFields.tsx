import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Figure, FileForm, PrintSettings } from "../api/types";
import type { OtherFigure } from "./useOtherFigures";

const FORMS: readonly FileForm[] = ["svg", "pdf", "png"];
const TONES: readonly { value: PrintSettings["preset"]; label: string }[] = [
  { value: "house", label: "House tones" },
  { value: "grey", label: "Greyscale" },
  { value: "distinct", label: "For colour-blind readers" },
];

interface Props {
  figure: Figure;
  settings: PrintSettings;
  form: FileForm;
  onForm: (form: FileForm) => void;
  onChange: (change: Partial<PrintSettings>) => void;
  others: readonly OtherFigure[];
  beside: readonly string[];
  onBeside: (views: readonly string[]) => void;
  /** How many figures stand in a row of the file. */
  across: number;
  onAcross: (across: number) => void;
}

/** Size, words and tones of a printed figure. */
export function PrintFields(props: Props) {
  const { figure, settings, form, onForm, onChange, others, beside, onBeside, across, onAcross } =
    props;
  const labels = groupLabels(figure);
  return (
    <div className="print-fields">
      <TextField
        select
        label="File"
        value={form}
        onChange={(event) => onForm(event.target.value as FileForm)}
      >
        {FORMS.map((one) => (
          <MenuItem key={one} value={one}>
            {one.toUpperCase()}
          </MenuItem>
        ))}
      </TextField>
      <div className="in-a-row">
        <NumberField
          label="Width, mm"
          value={settings.width}
          set={(v) => onChange({ width: v ?? 170 })}
        />
        <NumberField
          label="Height, mm"
          value={settings.height}
          empty="as needed"
          set={(v) => onChange({ height: v })}
        />
      </div>
      <div className="in-a-row">
        <NumberField
          label="Font size, pt"
          value={settings.font}
          set={(v) => onChange({ font: v ?? 8 })}
        />
        <NumberField
          label="Pixels per inch"
          value={settings.dpi}
          set={(v) => onChange({ dpi: v ?? 300 })}
        />
      </div>
      <TextField
        select
        label="Tones"
        value={settings.preset}
        onChange={(event) => onChange({ preset: event.target.value as PrintSettings["preset"] })}
      >
        {TONES.map((tone) => (
          <MenuItem key={tone.value} value={tone.value}>
            {tone.label}
          </MenuItem>
        ))}
      </TextField>
      <WordsField label="Title" value={settings.title} set={(title) => onChange({ title })} />
      <WordsField
        label="Words of the axis"
        own={figure.across.label}
        value={settings.across}
        set={(across) => onChange({ across })}
      />
      {figure.tracks
        .filter((track) => settings.tracks?.includes(track.id))
        .map((track) => (
          <WordsField
            key={track.id}
            label={`Heading of ${track.title}`}
            own={track.title}
            value={settings.titles[track.id]}
            set={(title) => onChange({ titles: { ...settings.titles, [track.id]: title } })}
          />
        ))}
      <NumberField
        label="Between ticks"
        value={settings.tick_step}
        empty="as fits"
        set={(v) => onChange({ tick_step: v })}
      />
      {labels.map((label) => (
        <WordsField
          key={label}
          label={`Label of ${label}`}
          own={label}
          value={settings.labels[label]}
          set={(words) => onChange({ labels: { ...settings.labels, [label]: words } })}
        />
      ))}
      {figure.tracks.some((track) => track.axis === null) ? (
        <Tick
          label="Numbers at risk"
          on={settings.at_risk}
          set={(at_risk) => onChange({ at_risk })}
        />
      ) : null}
      <Tick
        label="The statement and notes as a caption"
        on={settings.caption}
        set={(caption) => onChange({ caption })}
      />
      {others.map(({ view, title }) => (
        <Tick
          key={view}
          label={`With the figure: ${title}`}
          on={beside.includes(view)}
          set={(on) => onBeside(on ? [...beside, view] : beside.filter((v) => v !== view))}
        />
      ))}
      {beside.length ? (
        <Tick label="Two figures in a row" on={across === 2} set={(two) => onAcross(two ? 2 : 1)} />
      ) : null}
    </div>
  );
}

/** The names of groups that a figure bears, each once. */
function groupLabels(figure: Figure): string[] {
  const found = figure.tracks.flatMap((track) => [
    ...track.marks.flatMap((mark) => (mark.kind === "line" && mark.named ? [mark.label] : [])),
    ...(track.counts.length > 1 ? track.counts.map((row) => row.label) : []),
  ]);
  return [...new Set(found)];
}

function Tick({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
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
function WordsField({
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
function NumberField({
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

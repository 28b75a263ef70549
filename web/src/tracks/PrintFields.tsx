import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { Figure, FileForm, PrintSettings } from "../api/types";
import { HeadingFields, NumberField, Tick, TonesField, WordsField } from "./fields";
import { PresetFields } from "./PresetFields";
import type { OtherFigure } from "./useOtherFigures";

const FORMS: readonly FileForm[] = ["svg", "pdf", "png"];
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
      <PresetFields settings={settings} onChange={onChange} />
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
      <TonesField settings={settings} onChange={onChange} />
      <HeadingFields
        figure={figure}
        tracks={settings.tracks ?? []}
        settings={settings}
        onChange={onChange}
      />
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

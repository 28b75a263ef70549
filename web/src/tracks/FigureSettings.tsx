import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useKeepPrintSettings, useSetLook } from "../api/changes";
import { fetchPrintSettings } from "../api/drawings";
import type { Figure, FigureGroup, GroupStyle, PrintSettings } from "../api/types";
import { GROUP_TONES } from "../theme/tones";
import { FigureDialog } from "./FigureDialog";
import { HeadingFields, TonesField } from "./fields";
import { PresetFields } from "./PresetFields";
import { ToneSample } from "./ToneSample";
import "./FigureSettings.css";

interface Props {
  study: string;
  view: string;
  figure: Figure;
  tracks: readonly string[];
  styleOf: (group: FigureGroup) => GroupStyle;
}

/** How the figure of a view is headed and toned, on the screen and in print. */
export function FigureSettings(props: Props) {
  const found = useMutation({ mutationFn: () => fetchPrintSettings(props.study, props.view) });
  const kept = found.isSuccess ? found.data : null;
  return (
    <>
      <FigureDialog
        label="Figure settings"
        name="Figure settings"
        ready={kept !== null}
        onOpen={() => found.mutate()}
      >
        {() => (kept ? <Fields {...props} kept={kept} /> : null)}
      </FigureDialog>
      {found.error ? <p role="alert">{found.error.message}</p> : null}
    </>
  );
}

/** The words are kept once somebody has left their field, a choice at once. */
function Fields({ study, view, figure, kept, tracks, styleOf }: Props & { kept: PrintSettings }) {
  const [settings, setSettings] = useState(kept);
  const keep = useKeepPrintSettings(study, view);
  const set = useSetLook(study, view);
  const saved = useRef(kept);
  const save = (next: PrintSettings) => {
    if (JSON.stringify(next) === JSON.stringify(saved.current)) return;
    saved.current = next;
    keep.mutate(next);
  };
  const choose = (change: Partial<PrintSettings>) => {
    const next = { ...settings, ...change };
    setSettings(next);
    save(next);
  };
  const leave = useRef(() => {});
  leave.current = () => save(settings);
  // Who closes the dialog from within a field does not leave the field first.
  useEffect(() => () => leave.current(), []);
  const error = keep.error ?? set.error;
  return (
    <div className="print-fields figure-settings">
      <PresetFields settings={settings} onChange={choose} />
      <TonesField settings={settings} onChange={choose} />
      {/* biome-ignore lint/a11y/noStaticElementInteractions: what is left is kept, by whatever way */}
      <div className="print-fields" onBlur={() => save(settings)}>
        <HeadingFields
          figure={figure}
          tracks={tracks}
          settings={settings}
          onChange={(change) => setSettings((now) => ({ ...now, ...change }))}
        />
      </div>
      {figure.groups.map((group) => (
        <LookFields
          key={group.key}
          group={group}
          style={styleOf(group)}
          onStyle={(style) => set.mutate(style)}
        />
      ))}
      {error ? <p role="alert">{error.message}</p> : null}
    </div>
  );
}

const OWN = "own";

/** The tone and the dash of a group, each for itself, in every view. */
function LookFields({
  group,
  style,
  onStyle,
}: {
  group: FigureGroup;
  style: GroupStyle;
  onStyle: (style: GroupStyle) => void;
}) {
  const tone = style.tone ?? group.tone;
  const parsed = (value: string) => (value === OWN ? null : Number(value));
  return (
    <fieldset className="in-a-row" aria-label={`Look of ${group.label}`}>
      <TextField
        select
        label={`Tone of ${group.label}`}
        value={style.tone ?? OWN}
        onChange={(event) => onStyle({ ...style, tone: parsed(event.target.value) })}
      >
        <MenuItem value={OWN}>its own</MenuItem>
        {GROUP_TONES.map((name, k) => (
          <MenuItem key={name} value={k}>
            <ToneSample tone={k} dash={-1} name={name} />
          </MenuItem>
        ))}
      </TextField>
      <TextField
        select
        label={`Dash of ${group.label}`}
        value={style.dash ?? OWN}
        onChange={(event) => onStyle({ ...style, dash: parsed(event.target.value) })}
      >
        <MenuItem value={OWN}>of its tone</MenuItem>
        {GROUP_TONES.map((name, k) => (
          <MenuItem key={name} value={k} aria-label={`dash of ${name}`}>
            <ToneSample tone={tone} dash={k} name="" />
          </MenuItem>
        ))}
      </TextField>
    </fieldset>
  );
}

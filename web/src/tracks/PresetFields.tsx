import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { useDeletePreset, useFigurePresets, useKeepPreset } from "../api/figurePresets";
import type { FigurePreset, PrintSettings } from "../api/types";

type PageSettings = FigurePreset["settings"];

/** Taking the settings that are kept for all studies under a name, and keeping these. */
export function PresetFields({
  settings,
  onChange,
}: {
  settings: PrintSettings;
  onChange: (change: Partial<PrintSettings>) => void;
}) {
  const presets = useFigurePresets();
  const keep = useKeepPreset();
  const drop = useDeletePreset();
  const [name, setName] = useState("");
  const now = pageSettings(settings);
  const chosen = presets.find((one) => JSON.stringify(one.settings) === JSON.stringify(now));
  const error = keep.error ?? drop.error;
  return (
    <fieldset className="preset-fields" aria-label="Presets of all studies">
      {presets.length ? (
        <div className="in-a-row">
          <TextField
            select
            label="Preset"
            value={chosen?.name ?? ""}
            onChange={(event) => {
              const found = presets.find((one) => one.name === event.target.value);
              if (found) onChange(found.settings);
            }}
          >
            {presets.map((one) => (
              <MenuItem key={one.name} value={one.name}>
                {one.name}
              </MenuItem>
            ))}
          </TextField>
          <Button disabled={!chosen} onClick={() => chosen && drop.mutate(chosen.name)}>
            Delete
          </Button>
        </div>
      ) : null}
      <form
        className="in-a-row"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) keep.mutate({ name: name.trim(), settings: now });
          setName("");
        }}
      >
        <TextField
          label="Keep as preset"
          placeholder="our journal"
          value={name}
          slotProps={{ inputLabel: { shrink: true }, htmlInput: { maxLength: 100 } }}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" disabled={!name.trim()}>
          Keep
        </Button>
      </form>
      {error ? <p role="alert">{error.message}</p> : null}
    </fieldset>
  );
}

/** What of the settings of a figure holds for any study. */
function pageSettings(settings: PrintSettings): PageSettings {
  const { width, height, dpi, font, preset, at_risk, caption } = settings;
  return { width, height, dpi, font, preset, at_risk, caption };
}

import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import IconButton from "@mui/material/IconButton";
import Popover from "@mui/material/Popover";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Track } from "../api/types";
import { LEAST_HEIGHT } from "./layout";
import type { TrackChoice } from "./trackChoice";
import "./TrackMenu.css";

const TALLER = 30;

/** Adding, taking away, reordering and resizing tracks. */
export function TrackMenu({
  tracks,
  choice,
  heightOf,
}: {
  tracks: readonly Track[];
  choice: TrackChoice;
  heightOf: (id: string) => number;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const order = [
    ...choice.shown.flatMap((s) => tracks.filter((t) => t.id === s.id)),
    ...tracks.filter((t) => !choice.shown.some((s) => s.id === t.id)),
  ];
  return (
    <>
      <Button onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="dialog">
        Add track
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "top", horizontal: "left" }}
        transformOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Tracks" } }}
      >
        <ul className="track-menu">
          {order.map((track) => {
            const on = choice.shown.some((s) => s.id === track.id);
            return (
              <li key={track.id}>
                <FormControlLabel
                  label={track.title}
                  control={
                    <Checkbox
                      size="small"
                      checked={on}
                      onChange={() => (on ? choice.remove(track.id) : choice.add(track.id))}
                    />
                  }
                />
                {on ? (
                  <PlaceActs track={track} choice={choice} height={heightOf(track.id)} />
                ) : null}
                {on ? <AxisChoices track={track} choice={choice} /> : null}
              </li>
            );
          })}
        </ul>
      </Popover>
    </>
  );
}

interface PlaceProps {
  track: Track;
  choice: TrackChoice;
  height: number;
}

/** Moving a track, and making it lower or taller. */
function PlaceActs({ track, choice, height }: PlaceProps) {
  const { id, title } = track;
  const lower = Math.max(height - TALLER, LEAST_HEIGHT);
  return (
    <span>
      <Act label={`Move ${title} up`} act={() => choice.move(id, -1)}>
        ↑
      </Act>
      <Act label={`Move ${title} down`} act={() => choice.move(id, 1)}>
        ↓
      </Act>
      <Act label={`Make ${title} lower`} act={() => choice.change(id, { height: lower })}>
        −
      </Act>
      <Act
        label={`Make ${title} taller`}
        act={() => choice.change(id, { height: height + TALLER })}
      >
        +
      </Act>
    </span>
  );
}

/** What the axes of a track tell: proportions or percent, from the data or all that there could be. */
function AxisChoices({ track, choice }: { track: Track; choice: TrackChoice }) {
  const shown = choice.shown.find((s) => s.id === track.id);
  const form = track.axis?.form;
  if (!shown) return null;
  return (
    <div className="axis-choices">
      {form === "percent" ? (
        <AxisChoice
          label="As proportions"
          on={shown.proportion}
          set={(proportion) => choice.change(track.id, { proportion })}
        />
      ) : null}
      {form === "percent" || form === "points" || form === "number" ? (
        <AxisChoice
          label="Axis from the data"
          on={shown.fitted}
          set={(fitted) => choice.change(track.id, { fitted })}
        />
      ) : null}
      {track.counts.length ? (
        <TextField
          label="Ticks every"
          defaultValue={shown.every ?? ""}
          placeholder="as fits"
          sx={{ width: 110 }}
          onBlur={(event) => {
            const every = Number(event.target.value.replace(",", "."));
            const wanted = every > 0 ? every : null;
            if (wanted !== (shown.every ?? null)) choice.change(track.id, { every: wanted });
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter") (event.target as HTMLElement).blur();
          }}
        />
      ) : null}
    </div>
  );
}

function AxisChoice({
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

function Act({ label, act, children }: { label: string; act: () => void; children: string }) {
  return (
    <IconButton size="small" aria-label={label} onClick={act} sx={{ width: 28, height: 28 }}>
      {children}
    </IconButton>
  );
}

import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import IconButton from "@mui/material/IconButton";
import TextField from "@mui/material/TextField";
import type { Track } from "../api/types";
import { FigureDialog } from "./FigureDialog";
import { Tick } from "./fields";
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
  const order = [
    ...choice.shown.flatMap((s) => tracks.filter((t) => t.id === s.id)),
    ...tracks.filter((t) => !choice.shown.some((s) => s.id === t.id)),
  ];
  return (
    <FigureDialog label="Add track" name="Tracks">
      {() => (
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
                {on ? <PartChoices track={track} choice={choice} /> : null}
              </li>
            );
          })}
        </ul>
      )}
    </FigureDialog>
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

/** What the axes of a track show: proportions or percent, from the data or all that there could be. */
function AxisChoices({ track, choice }: { track: Track; choice: TrackChoice }) {
  const shown = choice.shown.find((s) => s.id === track.id);
  const form = track.axis?.form;
  if (!shown) return null;
  return (
    <div className="axis-choices">
      {form === "percent" ? (
        <Tick
          label="As proportions"
          on={shown.proportion}
          set={(proportion) => choice.change(track.id, { proportion })}
        />
      ) : null}
      {form === "percent" || form === "points" || form === "number" ? (
        <Tick
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

/** What of a track is drawn: its curves, limits, ticks of the censored and the like. */
function PartChoices({ track, choice }: { track: Track; choice: TrackChoice }) {
  const switched = choice.shown.find((s) => s.id === track.id)?.switched ?? [];
  if (!track.parts.length) return null;
  return (
    <fieldset className="part-choices" aria-label={`Parts of ${track.title}`}>
      {track.parts.map((part) => {
        const other = switched.includes(part.id);
        const next = other ? switched.filter((id) => id !== part.id) : [...switched, part.id];
        return (
          <Tick
            key={part.id}
            label={part.label}
            on={part.shown !== other}
            set={() => choice.change(track.id, { switched: next })}
          />
        );
      })}
    </fieldset>
  );
}

function Act({ label, act, children }: { label: string; act: () => void; children: string }) {
  return (
    <IconButton size="small" aria-label={label} onClick={act} sx={{ width: 28, height: 28 }}>
      {children}
    </IconButton>
  );
}

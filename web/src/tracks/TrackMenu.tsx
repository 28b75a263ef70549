import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import IconButton from "@mui/material/IconButton";
import Popover from "@mui/material/Popover";
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
            const height = heightOf(track.id);
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
                  <span>
                    <Act label={`Move ${track.title} up`} act={() => choice.move(track.id, -1)}>
                      ↑
                    </Act>
                    <Act label={`Move ${track.title} down`} act={() => choice.move(track.id, 1)}>
                      ↓
                    </Act>
                    <Act
                      label={`Make ${track.title} lower`}
                      act={() => choice.resize(track.id, Math.max(height - TALLER, LEAST_HEIGHT))}
                    >
                      −
                    </Act>
                    <Act
                      label={`Make ${track.title} taller`}
                      act={() => choice.resize(track.id, height + TALLER)}
                    >
                      +
                    </Act>
                  </span>
                ) : null}
              </li>
            );
          })}
        </ul>
      </Popover>
    </>
  );
}

function Act({ label, act, children }: { label: string; act: () => void; children: string }) {
  return (
    <IconButton size="small" aria-label={label} onClick={act} sx={{ width: 28, height: 28 }}>
      {children}
    </IconButton>
  );
}

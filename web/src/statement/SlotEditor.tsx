import MenuItem from "@mui/material/MenuItem";
import MenuList from "@mui/material/MenuList";
import Popover from "@mui/material/Popover";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Slot } from "../api/types";
import { grouped } from "../numbers/format";
import { CodesEditor } from "./CodesEditor";
import { EntryField } from "./EntryField";
import { SlotShape } from "./SlotShape";
import { SpreadField } from "./SpreadField";
import "./SlotEditor.css";

const SEARCH_FROM = 9;
/** More choices than these are found by a part of their name. */
const MAX_SHOWN = 120;

/** How something is chosen: the editor stays open, or it is added, under a name, to what is there. */
export interface Choosing {
  stay?: boolean;
  adds?: string;
}

/** What a slot can hold, with counts and a preview of what each choice would do. */
export function SlotEditor({
  slot,
  anchor,
  onClose,
  onSet,
  onTry,
}: {
  slot: Slot;
  anchor: HTMLElement;
  onClose: () => void;
  /** Something was chosen; the editor closes unless more is to be tried, as a threshold is. */
  onSet: (field: string, value: unknown, how?: Choosing) => void;
  onTry: (field: string, value: unknown) => void;
}) {
  const [search, setSearch] = useState("");
  const options = slot.options;
  const words = search.trim().toLowerCase();
  const found = options.filter((o) => `${o.label} ${o.note}`.toLowerCase().includes(words));
  const more = found.length - MAX_SHOWN;
  const shown =
    more > 0
      ? found.filter((option, k) => k < MAX_SHOWN || (option.chosen && words === ""))
      : found;
  const searching = options.length >= SEARCH_FROM;
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
      slotProps={{ paper: { role: "dialog", "aria-label": slot.title, className: "slot-editor" } }}
    >
      <h2>{slot.title}</h2>
      {slot.codes.length ? (
        <CodesEditor codes={slot.codes} onSet={(value) => onSet("meanings", value)} />
      ) : null}
      {slot.entry ? (
        <EntryField
          key={slot.entry.value}
          entry={slot.entry}
          onSet={(v) => onSet(slot.entry?.field ?? "", v)}
        />
      ) : null}
      {slot.shape ? <SlotShape shape={slot.shape} /> : null}
      {slot.spread ? (
        <SpreadField
          spread={slot.spread}
          onSet={(value) => onSet(slot.spread?.field ?? "", value, { stay: true })}
          onTry={(value) => onTry(slot.spread?.field ?? "", value)}
        />
      ) : null}
      {searching ? (
        <TextField
          label="Search"
          value={search}
          autoFocus
          fullWidth
          onChange={(event) => setSearch(event.target.value)}
          sx={{ mb: 1 }}
        />
      ) : null}
      {options.length ? (
        <MenuList autoFocusItem={!searching && !slot.entry} className="slot-options">
          {shown.map((option) => (
            <MenuItem
              key={`${option.label}${option.field}`}
              selected={option.chosen}
              onClick={() =>
                onSet(option.field, option.value, option.adds ? { adds: option.label } : {})
              }
            >
              <span className="option-label">{option.label}</span>
              {option.note ? <span className="option-note">{option.note}</span> : null}
            </MenuItem>
          ))}
        </MenuList>
      ) : null}
      {more > 0 ? (
        <p className="quiet">{grouped(more)} more. Type a part of the name to find one of them.</p>
      ) : null}
      {options.length && !found.length ? <p className="quiet">Nothing is called that.</p> : null}
      {!options.length && !slot.entry && !slot.codes.length ? (
        <p className="quiet">No column of this file fits here.</p>
      ) : null}
    </Popover>
  );
}

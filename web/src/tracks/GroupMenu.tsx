import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Popover from "@mui/material/Popover";
import Radio from "@mui/material/Radio";
import RadioGroup from "@mui/material/RadioGroup";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { useNameLevel, useSetLook } from "../api/changes";
import type { FigureGroup, GroupStyle } from "../api/types";
import { GROUP_TONES } from "../theme/tones";
import type { Way } from "./styled";
import { ToneSample } from "./ToneSample";
import "./GroupMenu.css";

const WAYS: readonly { way: Way; label: string; without?: boolean }[] = [
  { way: "hidden", label: "Shown", without: true },
  { way: "front", label: "In front of the others" },
  { way: "bare", label: "With its interval", without: true },
];

interface Props {
  study: string;
  view: string;
  group: FigureGroup;
  style: GroupStyle;
  anchor: Element;
  onClose: () => void;
}

/** How a group is drawn, chosen at the end of its curve: its name, its tone, what is shown of it. */
export function GroupMenu({ study, view, group, style, anchor, onClose }: Props) {
  const set = useSetLook(study, view);
  const change = (part: Partial<GroupStyle>) => set.mutate({ ...style, ...part });
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
      slotProps={{ paper: { role: "dialog", "aria-label": group.label, className: "group-menu" } }}
    >
      <h2>{group.label}</h2>
      {group.levels.map((level) => (
        <LevelName
          key={`${level.column}|${level.level}`}
          study={study}
          column={level.column}
          level={level.level}
        />
      ))}
      {group.levels.length ? null : <p className="quiet">Its name comes from its threshold.</p>}
      {WAYS.map(({ way, label, without }) => {
        const on = style[way].includes(view) !== Boolean(without);
        const others = style[way].filter((one) => one !== view);
        return (
          <FormControlLabel
            key={way}
            label={label}
            control={
              <Checkbox
                size="small"
                checked={on}
                onChange={() => {
                  change({ [way]: style[way].includes(view) ? others : [...others, view] });
                  if (way === "hidden") onClose(); // its label goes, and the menu with it
                }}
              />
            }
          />
        );
      })}
      <ToneChoice
        tone={style.tone ?? group.tone % GROUP_TONES.length}
        onTone={(tone) => change({ tone })}
      />
      {set.error ? <p role="alert">{set.error.message}</p> : null}
    </Popover>
  );
}

/** The tone of a group, the same in every view. */
function ToneChoice({ tone: chosen, onTone }: { tone: number; onTone: (tone: number) => void }) {
  return (
    <RadioGroup
      aria-label="Tone in every view"
      value={chosen}
      onChange={(_, value) => onTone(Number(value))}
    >
      {GROUP_TONES.map((name, tone) => (
        <FormControlLabel
          key={name}
          value={tone}
          control={<Radio size="small" />}
          label={<ToneSample tone={tone} dash={tone} name={name} />}
        />
      ))}
    </RadioGroup>
  );
}

/** A level's name, which is the same in every view: written here, it becomes a step in Prepare. */
function LevelName({ study, column, level }: { study: string; column: string; level: string }) {
  const [name, setName] = useState(level);
  const put = useNameLevel(study);
  const keep = () => {
    if (name.trim() && name.trim() !== level) put.mutate({ column, level, name: name.trim() });
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <TextField
        label={`Name (${column})`}
        value={name}
        fullWidth
        margin="dense"
        helperText="In every view: a step in Prepare."
        onChange={(event) => setName(event.target.value)}
        onBlur={keep}
      />
      {put.error ? <p role="alert">{put.error.message}</p> : null}
    </form>
  );
}

import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useEffect, useState } from "react";
import { useNameAnalysis, useRemoveAnalysis } from "../api/changes";
import type { AnalysisLine } from "../api/types";
import { useViews } from "../api/view";
import { AskWords } from "./AskWords";
import { useBeginView } from "./useBeginView";
import "./ChoiceStrip.css";

/** The views of a stage: one is shown; each can be duplicated, renamed, deleted, and set beside it. */
export function ViewStrip({ study, stage }: { study: string; stage: string }) {
  const { lines, shown, beside, open, setBeside } = useViews(study, stage);
  const [renaming, setRenaming] = useState<AnalysisLine | null>(null);
  const begin = useBeginView(study, stage, open);
  const rename = useNameAnalysis(study);
  const letters = beside.map((line) => line.letter);
  const first = lines[0];
  const leave = useLeaving(study, stage, shown, () => open(undefined));
  if (!first) return null;
  return (
    <nav className="choice-strip" aria-label="Views of this stage">
      {lines.length > 1 ? (
        <ul>
          {lines.map((line) => (
            <li key={line.id}>
              <OneView
                line={line}
                shown={line === shown}
                beside={letters.includes(line.letter)}
                onOpen={() => open(line.letter)}
                onBeside={(together) =>
                  setBeside(
                    together
                      ? [...letters, line.letter]
                      : letters.filter((one) => one !== line.letter && one !== shown?.letter),
                  )
                }
                onDuplicate={() => begin(line.id)}
                onRename={() => setRenaming(line)}
                onDelete={line === first ? null : () => leave(line)}
              />
            </li>
          ))}
        </ul>
      ) : null}
      <Button size="small" onClick={() => begin(shown?.id ?? null)}>
        New view
      </Button>
      {renaming ? (
        <AskWords
          title={`Rename view ${renaming.letter}`}
          question="Name; without one it is what differs from the other views"
          act="Rename"
          start={renaming.name}
          busy={rename.isPending}
          error={rename.error}
          onClose={() => setRenaming(null)}
          onSubmit={(name) =>
            rename.mutate({ line: renaming, name }, { onSuccess: () => setRenaming(null) })
          }
        />
      ) : null}
    </nav>
  );
}

/** Deletes a view when its page has gone: a page that still shows it would fetch it once more. */
function useLeaving(
  study: string,
  stage: string,
  shown: AnalysisLine | undefined,
  openFirst: () => void,
): (line: AnalysisLine) => void {
  const { mutate } = useRemoveAnalysis(study, stage);
  const [leaving, setLeaving] = useState<number | null>(null);
  useEffect(() => {
    if (leaving === null || shown?.id === leaving) return;
    setLeaving(null);
    mutate(leaving);
  }, [leaving, shown, mutate]);
  return (line) => {
    setLeaving(line.id);
    openFirst();
  };
}

interface OneProps {
  line: AnalysisLine;
  shown: boolean;
  beside: boolean;
  onOpen: () => void;
  onBeside: (together: boolean) => void;
  onDuplicate: () => void;
  onRename: () => void;
  /** Null for the first, which the other stages follow from. */
  onDelete: (() => void) | null;
}

function OneView(props: OneProps) {
  const { line, shown, beside, onOpen, onBeside } = props;
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const act = (what: () => void) => () => {
    setAnchor(null);
    what();
  };
  return (
    <div className={shown ? "choice chosen" : beside ? "choice together" : "choice"}>
      <button
        type="button"
        className="choice-open"
        title={line.title}
        aria-current={shown ? "true" : undefined}
        onClick={onOpen}
      >
        <b>{line.letter}</b> <span className="choice-words">{line.title}</span>
      </button>
      {shown ? null : (
        <button
          type="button"
          className="choice-more"
          aria-pressed={beside}
          aria-label={`Beside: ${line.letter} ${line.title}`}
          onClick={() => onBeside(!beside)}
        >
          Beside
        </button>
      )}
      <button
        type="button"
        className="choice-more"
        aria-haspopup="menu"
        aria-label={`More for view ${line.letter} ${line.title}`}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        ⋯
      </button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        <MenuItem onClick={act(props.onDuplicate)}>Duplicate</MenuItem>
        <MenuItem onClick={act(props.onRename)}>Rename</MenuItem>
        {props.onDelete ? <MenuItem onClick={act(props.onDelete)}>Delete</MenuItem> : null}
      </Menu>
    </div>
  );
}

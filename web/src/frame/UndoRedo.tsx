import Button from "@mui/material/Button";
import { useEffect } from "react";
import { useMove } from "../api/changes";
import { useStudy } from "../api/queries";
import { showMessage } from "./messages";

type Way = "undo" | "redo";
const DONE: Record<Way, string> = { undo: "Undone", redo: "Redone" };

/** Undo and redo of the whole study, by button and by key; what was done is stated, and where. */
export function UndoRedo({ study }: { study: string }) {
  const overview = useStudy(study).data;
  const move = useMove(study);
  const { mutate } = move;
  const stages = overview?.stages;
  const go = (way: Way) => {
    if (!overview?.[way]) {
      showMessage({ words: `There is nothing to ${way}.` });
      return;
    }
    mutate(way, {
      onSuccess: (moved) => {
        const stage = stages?.find((line) => line.stage === moved.stage)?.title ?? moved.stage;
        showMessage({ words: `${DONE[way]} in ${stage}: ${moved.sentence}` });
      },
      onError: (error) => showMessage({ words: error.message }),
    });
  };
  useEffect(() => {
    const act = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest("input, textarea, [role=dialog]");
      if (typing || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      event.preventDefault();
      go(event.shiftKey ? "redo" : "undo");
    };
    window.addEventListener("keydown", act);
    return () => window.removeEventListener("keydown", act);
  });
  const button = (way: Way, name: string) => (
    <Button
      disabled={!overview?.[way] || move.isPending}
      title={overview?.[way] ? `${name}: ${overview[way]}` : ""}
      onClick={() => go(way)}
    >
      {name}
    </Button>
  );
  return (
    <div>
      {button("undo", "Undo")}
      {button("redo", "Redo")}
    </div>
  );
}

import { createContext, useContext } from "react";
import { useSearchParams } from "react-router";
import { useStudy } from "./queries";
import type { AnalysisLine } from "./types";

/** The server sets no more views beside each other. */
const MAX_BESIDE = 6;

/** The view of a stage that a part of the page belongs to. */
export interface View {
  stage: string;
  /** The analysis it shows; null for the first of its stage. */
  analysis: number | null;
  /** Under this name its tracks, and how its figure is printed, are kept. */
  key: string;
}

export const ViewContext = createContext<View>({ stage: "", analysis: null, key: "" });

export const useView = () => useContext(ViewContext);

/** A view as a part of the page knows it; the first of a stage goes without its id. */
export function viewOf(stage: string, lines: readonly AnalysisLine[], line?: AnalysisLine): View {
  if (!line || line === lines[0]) return { stage, analysis: null, key: line?.view ?? stage };
  return { stage, analysis: line.id, key: line.view };
}

/** The views of a stage, the one that is shown, and those that stand beside each other; by the address. */
export function useViews(study: string, stage: string) {
  const found = useStudy(study).data?.stages.find((line) => line.stage === stage)?.analyses;
  const [search, setSearch] = useSearchParams();
  const lines: readonly AnalysisLine[] = found ?? [];
  const shown = lines.find((line) => line.letter === search.get("view")) ?? lines[0];
  const letters = search.get("beside")?.split(",") ?? [];
  const others = lines.filter((line) => line !== shown && letters.includes(line.letter));
  const beside = others.length
    ? lines.filter((line) => line === shown || others.includes(line)).slice(0, MAX_BESIDE)
    : [];
  const go = (letter: string | undefined, together: readonly string[]) =>
    setSearch({
      ...(letter && letter !== lines[0]?.letter ? { view: letter } : {}),
      ...(together.length ? { beside: together.join(",") } : {}),
    });
  const lettersBeside = beside.map((line) => line.letter);
  return {
    lines,
    shown,
    beside,
    /** Shows a view; those that stand beside each other stay where it is one of them. */
    open: (letter: string | undefined) =>
      go(letter, letter && lettersBeside.includes(letter) ? lettersBeside : []),
    /** Puts views beside the one that is shown; none, and it stands alone. */
    setBeside: (together: readonly string[]) =>
      go(shown?.letter, together.length && shown ? [...new Set([shown.letter, ...together])] : []),
  };
}

import { useEffect } from "react";
import type { Figure, StageResult, TimedTable, Trial } from "../api/types";
import { useView } from "../api/view";
import { seriesPages, usePageOf } from "../numbers/seriesPages";
import type { OnSet } from "../statement/StatementBar";
import { CategoryFigure } from "../tracks/CategoryFigure";
import { TrackFigure } from "../tracks/TrackFigure";
import { useWorkings } from "../workings/workings";
import { CellText } from "./sections/TableBlock";
import { readOut } from "./sections/TimedBlock";

interface Shown {
  study: string;
  stage: string;
  result: StageResult;
}

/** The figure of a view: its tables and strips, crossed by the sand line. */
export function StageFigure({
  study,
  stage,
  result,
  tried,
  changing,
  onSet,
  onTry,
}: Shown & {
  tried: Trial | null;
  changing: boolean;
  onSet: OnSet;
  onTry: (field: string, value: unknown) => void;
}) {
  const { key, analysis } = useView();
  const pageOf = usePageOf(study, result.drawing);
  const { show } = useWorkings();
  useEffect(() => {
    const series = result.sections.flatMap((section) =>
      section.blocks.flatMap((block) => (block.kind === "timed" ? block.series : [])),
    );
    const events = result.figure?.time ? [result.figure.time.events] : [];
    if (changing) return; // what is to come goes first
    const stop = new AbortController();
    void seriesPages(study, result.drawing).loadAhead([...events, ...series], stop.signal);
    return () => stop.abort();
  }, [study, result, changing]);
  if (!result.figure) return null;
  const { tables, strips } = parted(result.figure);
  const timed = result.sections.flatMap((section) =>
    section.blocks.filter((block): block is TimedTable => block.kind === "timed"),
  );
  return (
    <>
      {tables ? (
        <CategoryFigure
          study={study}
          view={key}
          figure={tables}
          drawing={result.drawing}
          cell={(cell) => <CellText stage={stage} cell={cell} />}
        />
      ) : null}
      {strips ? (
        <TrackFigure
          study={study}
          view={key}
          figure={strips}
          drawing={result.drawing}
          tried={tried}
          textAt={(t) => readOut(timed, t, pageOf)}
          onSet={onSet}
          onTry={onTry}
          onOpen={(of) => show({ ...of, stage, analysis })}
        />
      ) : null}
    </>
  );
}

/** The tracks that are tables with a picture, and those that are strips. */
function parted(figure: Figure): { tables: Figure | null; strips: Figure | null } {
  const table = (track: Figure["tracks"][number]) => track.axis?.form === "category";
  const some = (tracks: Figure["tracks"]) => (tracks.length ? { ...figure, tracks } : null);
  return {
    tables: some(figure.tracks.filter(table)),
    strips: some(figure.tracks.filter((track) => !table(track))),
  };
}

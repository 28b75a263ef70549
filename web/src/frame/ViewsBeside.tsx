import { useMemo } from "react";
import { useReadingsBeside, useStagesBeside } from "../api/queries";
import type { AnalysisLine, CellTable, StageResult } from "../api/types";
import { useViews, ViewContext, viewOf } from "../api/view";
import { Readings, Section } from "../readings/Readings";
import { CommonAxes } from "../tracks/commonAxes";
import { Refused } from "./ReasonField";
import { StageFigure } from "./StageFigure";
import { Working } from "./StagePage";
import { SectionView } from "./sections/SectionView";
import { TableBlock } from "./sections/TableBlock";
import "./ViewsBeside.css";

interface Props {
  study: string;
  stage: string;
  lines: readonly AnalysisLine[];
}

const nothing = () => undefined;

/** Views in columns under common axes and one sand line, their readings as one table with a column each. */
export function ViewsBeside({ study, stage, lines }: Props) {
  const { lines: all, shown, open } = useViews(study, stage);
  const ids = lines.map((line) => viewOf(stage, all, line).analysis);
  const found = useStagesBeside<StageResult>(study, stage, ids);
  const results = found.map((query) => query.data?.result ?? null);
  const state = found.map((query) => query.dataUpdatedAt).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: when each result came is the key
  const figures = useMemo(() => results.flatMap((one) => one?.figure ?? []), [state]);
  const error = found.find((query) => query.error)?.error;
  return (
    <>
      <Refused error={error} />
      <CommonAxes figures={figures}>
        <div className="views-beside">
          {lines.map((line, k) => {
            const result = results[k];
            const work = found[k]?.data?.work;
            return (
              <ViewContext.Provider key={line.id} value={viewOf(stage, all, line)}>
                <section className="view-column" aria-label={`View ${line.letter} ${line.title}`}>
                  <h2>
                    <button
                      type="button"
                      aria-pressed={line === shown}
                      title="Show its sentence above"
                      onClick={() => open(line.letter)}
                    >
                      <b>{line.letter}</b> {line.title}
                    </button>
                  </h2>
                  {work ? <Working work={work} /> : null}
                  {result?.blank ? <p className="quiet">{result.blank}</p> : null}
                  {result?.figure && !result.blank ? (
                    <>
                      <StageFigure
                        {...{ study, stage, result }}
                        tried={null}
                        changing={false}
                        onSet={nothing}
                        onTry={nothing}
                      />
                      <AtTheLine {...{ study, stage, result }} />
                    </>
                  ) : null}
                </section>
              </ViewContext.Provider>
            );
          })}
        </div>
      </CommonAxes>
      <ReadingsBeside study={study} stage={stage} lines={lines} state={state} />
    </>
  );
}

/** The readings of a view at the time of the sand line. */
function AtTheLine(shown: { study: string; stage: string; result: StageResult }) {
  const timed = shown.result.sections.filter((section) =>
    section.blocks.some((block) => block.kind === "timed"),
  );
  return timed.map((section) => <SectionView key={section.id} section={section} {...shown} />);
}

/** The readings of the views, a column each. */
function ReadingsBeside({ study, stage, lines, state }: Props & { state: string }) {
  const { lines: all } = useViews(study, stage);
  const ids = lines.map((line) => line.id);
  const query = useReadingsBeside(study, stage, ids, state);
  const views = lines.map((line) => viewOf(stage, all, line));
  if (query.error) return <Refused error={query.error} />;
  if (query.data?.work) return <Working work={query.data.work} />;
  return (
    <Readings>
      {query.data?.sections?.map((section) => (
        <Section key={section.id} title={section.title}>
          {section.blocks.map((block, k) =>
            block.kind === "table" ? (
              <TableBlock key={k} stage={stage} table={block as CellTable} views={views} />
            ) : null,
          )}
        </Section>
      ))}
    </Readings>
  );
}

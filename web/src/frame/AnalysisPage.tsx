import { useEffect, useMemo, useState } from "react";
import { usePutStatement } from "../api/changes";
import { useStage, useStudy } from "../api/queries";
import type { AnalysisLine, StageResult } from "../api/types";
import { useViews, type View, ViewContext, viewOf } from "../api/view";
import { ChosenTones } from "../readings/chosenTones";
import { Readings } from "../readings/Readings";
import type { Added, OnSet } from "../statement/StatementBar";
import { useChosenPreset } from "../tracks/chosenPreset";
import { chosenTones } from "../tracks/styled";
import { StageFigure } from "./StageFigure";
import { Blocked, StagePage, Working } from "./StagePage";
import { SectionView } from "./sections/SectionView";
import { useLast } from "./useLast";
import { useTrial } from "./useTrial";
import { ViewStrip } from "./ViewStrip";
import { ViewsBeside } from "./ViewsBeside";

/**
 * The page of a stage that analyses: requests its result, shows what blocks it or works on it, else
 * its figure and sections.
 */
export function AnalysisPage({ study, stage }: { study: string; stage: string }) {
  const views = useViews(study, stage);
  const view = viewOf(stage, views.lines, views.shown);
  return (
    <ViewContext.Provider value={view}>
      <OneAnalysis key={view.key} study={study} view={view} beside={views.beside} />
    </ViewContext.Provider>
  );
}

interface AnalysisProps {
  study: string;
  view: View;
  /** The views that stand beside each other, this one among them; none where it stands alone. */
  beside: readonly AnalysisLine[];
}

function OneAnalysis({ study, view, beside }: AnalysisProps) {
  const { stage, analysis } = view;
  const query = useStage<StageResult>(study, stage, analysis);
  const put = usePutStatement(study, stage, analysis);
  const overview = useStudy(study).data;
  const line = overview?.stages.find((one) => one.stage === stage);
  const title = line?.title ?? "";
  const reply = query.data;
  const last = useLast(`${study} ${view.key}`, reply?.result);
  const result = reply?.blocked ? undefined : last;
  const replaced = Boolean(result) && !reply?.result;
  const groups = result?.figure?.groups;
  const tones = useMemo(
    () => chosenTones(groups ?? [], overview?.group_styles ?? []),
    [groups, overview?.group_styles],
  );
  const preset = useChosenPreset(study, view.key);
  const { tried, stop, onTry } = useTrial(study, reply?.statement, result?.drawing ?? "");
  const work = reply?.work;
  const changing = put.isPending || Boolean(work) || (query.isFetching && !query.isLoading);
  const [added, setAdded] = useState<readonly Added[]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another sentence words what was added
  useEffect(() => setAdded([]), [result?.sentence, put.error]);
  // What was tried may be set to what it was: then no other result ends the trial.
  const onSet: OnSet = (field, value, adding) => {
    if (adding) setAdded((now) => [...now, adding]);
    put.mutate({ field, value, adds: adding !== undefined }, { onSettled: stop });
  };
  return (
    <ChosenTones.Provider value={tones}>
      <StagePage
        study={study}
        replaced={replaced}
        title={title}
        views={
          line?.several_views && !reply?.blocked ? <ViewStrip study={study} stage={stage} /> : null
        }
        beside={beside.length > 0}
        hint={result?.hint ?? ""}
        context={result?.line}
        sentence={result?.sentence}
        choices={result?.choices}
        onSet={onSet}
        added={added}
        onTry={onTry}
        tried={tried}
        tones={preset}
        changing={changing}
        error={put.error ?? query.error}
        readings={
          result && !beside.length ? (
            <SideSections study={study} stage={stage} result={result} />
          ) : null
        }
      >
        {reply?.blocked ? <Blocked study={study} blocks={reply.blocked} /> : null}
        {work && !query.isError ? <Working work={work} over={replaced} /> : null}
        {query.isLoading ? <p className="notice quiet">Opening …</p> : null}
        {result?.blank && !beside.length ? <p className="notice">{result.blank}</p> : null}
        {beside.length ? <ViewsBeside study={study} stage={stage} lines={beside} /> : null}
        {result && !result.blank && !beside.length ? (
          <div inert={replaced}>
            <StageFigure {...{ study, stage, result, tried, changing, onSet, onTry }} />
            <div className={tried ? "of-before" : undefined}>
              <Sections study={study} stage={stage} result={result} place="main" />
            </div>
          </div>
        ) : null}
      </StagePage>
    </ChosenTones.Provider>
  );
}

interface Shown {
  study: string;
  stage: string;
  result: StageResult;
}

function SideSections(shown: Shown) {
  return <Readings>{shown.result.blank ? null : <Sections {...shown} place="side" />}</Readings>;
}

function Sections({ place, ...shown }: Shown & { place: "side" | "main" }) {
  return shown.result.sections
    .filter((section) => section.place === place)
    .map((section) => <SectionView key={section.id} section={section} {...shown} />);
}

import { useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { answered, api } from "./client";
import { fromPages } from "./pages";
import { revisionOf } from "./revisions";
import type {
  BesideReply,
  PartResult,
  Recipe,
  Reply,
  RowPage,
  Statement,
  StepBody,
  StudyPlan,
} from "./types";
import { whileWorking } from "./whileWorking";

export const path = (study: string) => ({ params: { path: { study_id: study } } });

export function useStudies() {
  return useQuery({ queryKey: ["studies"], queryFn: () => answered(api.GET("/api/studies")) });
}

export function useHealth() {
  return useQuery({ queryKey: ["health"], queryFn: () => answered(api.GET("/api/health")) });
}

/** What a statement would draw that is only tried. */
export function fetchTrial(study: string, body: Statement) {
  return answered(
    api.POST("/api/studies/{study_id}/trial", { ...path(study), body: body as never }),
  );
}

export function useStudy(study: string) {
  return useQuery({
    queryKey: ["study", study, "overview"],
    queryFn: () => answered(api.GET("/api/studies/{study_id}", path(study))),
    refetchOnWindowFocus: "always",
  });
}

/** What is shown of a study that was changed elsewhere is requested again. */
export function useFreshRevision(study: string, revision: number | undefined) {
  const client = useQueryClient();
  useEffect(() => {
    if (revision === undefined) return;
    void client.invalidateQueries(
      {
        queryKey: ["study", study],
        predicate: (query) => (revisionOf(query.state.data) ?? revision) < revision,
      },
      { cancelRefetch: false }, // what is on its way was requested after the change
    );
  }, [client, study, revision]);
}

export function useDecisions(study: string, wanted: boolean) {
  return useQuery({
    queryKey: ["study", study, "decisions"],
    enabled: wanted,
    queryFn: () => answered(api.GET("/api/studies/{study_id}/decisions", path(study))),
  });
}

export function usePrepare(study: string) {
  const query = useQuery({
    queryKey: ["study", study, "stage", "prepare"],
    queryFn: () => answered(api.GET("/api/studies/{study_id}/prepare", path(study))),
    refetchInterval: whileWorking,
  });
  useFreshStageNav(study, query.data?.reply.result);
  return query;
}

/** What the reply of a stage is known by: its first analysis where none is named. */
export function stageKey(study: string, stage: string, analysis?: number | null) {
  return ["study", study, "stage", stage, ...(analysis ? [analysis] : [])];
}

/** The reply of a stage that analyses; requested again while the server is still at work on it. */
export function useStage<R>(study: string, stage: string, analysis?: number | null) {
  const query = useQuery(stageQuery<R>(study, stage, analysis));
  useFreshStageNav(study, query.data?.result);
  return query;
}

/** The replies of several views of a stage. */
export function useStagesBeside<R>(
  study: string,
  stage: string,
  analyses: readonly (number | null)[],
) {
  return useQueries({ queries: analyses.map((analysis) => stageQuery<R>(study, stage, analysis)) });
}

function stageQuery<R>(study: string, stage: string, analysis?: number | null) {
  return {
    queryKey: stageKey(study, stage, analysis),
    queryFn: async () =>
      (await answered(
        api.GET(stageAddress(stage), {
          params: { path: { study_id: study }, query: analysis ? { analysis } : {} },
        }),
      )) as unknown as Reply<R>,
    refetchInterval: whileWorking,
  };
}

/** The readings of several views of a stage, a column each; fetched again when one of them is. */
export function useReadingsBeside(
  study: string,
  stage: string,
  analyses: readonly number[],
  state: string,
) {
  return useQuery({
    queryKey: ["study", study, "beside", stage, analyses, state],
    enabled: analyses.length > 1,
    queryFn: async () =>
      (await answered(
        api.GET(`${stageAddress(stage)}/beside` as "/api/studies/{study_id}/estimate/beside", {
          params: { path: { study_id: study }, query: { analyses: [...analyses] } },
        }),
      )) as BesideReply,
    refetchInterval: whileWorking,
    placeholderData: (before) => before,
  });
}

/** Stages are named by the server; their addresses are alike, whatever types the document has. */
function stageAddress(rest: string) {
  return `/api/studies/{study_id}/${rest}` as "/api/studies/{study_id}/estimate";
}

/** A part of a stage's result that takes its time. */
export function usePart(study: string, stage: string, part: string, analysis: number | null) {
  const whole = useStage<unknown>(study, stage, analysis);
  return useQuery({
    // What takes its time does not stand in the way of the result that it is a part of.
    enabled: Boolean(whole.data?.result) && !whole.isFetching,
    queryKey: ["study", study, "part", stage, part, ...(analysis ? [analysis] : [])],
    queryFn: async () =>
      (await answered(
        api.GET(stageAddress(`${stage}/parts/${part}`), {
          params: { path: { study_id: study }, query: analysis ? { analysis } : {} },
        }),
      )) as unknown as Reply<PartResult>,
    refetchInterval: whileWorking,
    retry: false,
  });
}

/** Whether the report is written in a form; requested again while the server is at work on it. */
export function useSavedReport(study: string, form: string, report: number | null) {
  return useQuery({
    queryKey: ["study", study, "saved report", form, report],
    queryFn: () =>
      answered(
        api.GET("/api/studies/{study_id}/report.{form}/ready", {
          params: {
            path: { study_id: study, form },
            query: report === null ? {} : { analysis: report },
          },
        }),
      ),
    refetchInterval: whileWorking,
    retry: false,
    gcTime: 0,
  });
}

/** A new result changes the stage list's lines. */
function useFreshStageNav(study: string, result: unknown) {
  const client = useQueryClient();
  useEffect(() => {
    if (result) void client.invalidateQueries({ queryKey: ["study", study, "overview"] });
  }, [client, study, result]);
}

/** Rows of the prepared table, those of the pages wanted; null for those that have not arrived. */
export function useRowPages(
  study: string,
  pages: readonly number[],
  size: number,
  numbers: number[] | null,
) {
  const found = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["study", study, "rows", page * size, size, numbers],
      queryFn: () => fetchRows(study, page * size, size, numbers),
      placeholderData: (before: RowPage | undefined) => before,
    })),
  });
  const arrived = new Map(
    found.flatMap((query, k) =>
      query.data ? [[pages[k] as number, query.data.rows] as const] : [],
    ),
  );
  const total = found.find((query) => query.data)?.data?.total ?? 0;
  const state = found.map((query) => query.dataUpdatedAt).join(",");
  // biome-ignore lint/correctness/useExhaustiveDependencies: when each page came is the key
  const rows = useMemo(() => fromPages(total, arrived, size), [total, state, size]);
  return { total, rows };
}

function fetchRows(study: string, first: number, most: number, numbers: number[] | null) {
  return answered(
    api.GET("/api/studies/{study_id}/rows", {
      params: {
        path: { study_id: study },
        query: numbers === null ? { first, most } : { first, most, numbers },
      },
    }),
  );
}

/** How the time and the end of a row arose. */
export function useRowFollowUp(study: string, row: number) {
  return useQuery({
    queryKey: ["study", study, "row", row],
    queryFn: () =>
      answered(
        api.GET("/api/studies/{study_id}/rows/{number}", {
          params: { path: { study_id: study, number: row } },
        }),
      ),
    retry: false,
  });
}

export function useRows(study: string, first: number, most: number, numbers: number[] | null) {
  return useQuery({
    queryKey: ["study", study, "rows", first, most, numbers],
    queryFn: () => fetchRows(study, first, most, numbers),
    placeholderData: (before) => before,
  });
}

/** How each step is written by hand. */
export function useStepForms() {
  return useQuery({
    queryKey: ["step-forms"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => answered(api.GET("/api/step-forms")),
  });
}

/** What a step would do, found out anew as it is written; work on what was written before is cancelled. */
export function useStepPreview(study: string, step: StepBody | null, insteadOf: number | null) {
  const query = useQuery({
    queryKey: ["step-preview", study, step, insteadOf],
    enabled: step !== null,
    queryFn: () =>
      answered(
        api.POST("/api/studies/{study_id}/steps/preview", {
          ...path(study),
          body: { step: step as StepBody, instead_of: insteadOf },
        }),
      ),
    refetchInterval: whileWorking,
    placeholderData: (before) => before,
    retry: false,
  });
  const work = query.isPlaceholderData ? undefined : query.data?.work?.id;
  useEffect(() => (work ? () => void cancelWork(work) : undefined), [work]);
  return query;
}

/** How the file is read, or would be by another recipe. */
export function useFileReading(study: string, recipe: Recipe | null) {
  return useQuery({
    queryKey: ["study", study, "file-reading", recipe],
    queryFn: () =>
      recipe === null
        ? answered(api.GET("/api/studies/{study_id}/file/reading", path(study)))
        : answered(
            api.POST("/api/studies/{study_id}/file/reading", { ...path(study), body: recipe }),
          ),
    refetchInterval: whileWorking,
    placeholderData: (before) => before,
    retry: false,
  });
}

/** Columns of a new data extract that are taken for those of another name. */
export type Renamed = readonly { was: string; now: string }[];

export const namesOf = (renamed: Renamed) => ({
  was: renamed.map((one) => one.was),
  now: renamed.map((one) => one.now),
});

/** The data extracts of a study, the one that waits set beside the one in use. */
export function useExtracts(study: string, renamed: Renamed) {
  return useQuery({
    queryKey: ["study", study, "extracts", renamed],
    queryFn: () =>
      answered(
        api.GET("/api/studies/{study_id}/extracts", {
          params: { path: { study_id: study }, query: namesOf(renamed) },
        }),
      ),
    refetchInterval: whileWorking,
    placeholderData: (before) => before,
  });
}

/** The further tables of a study, and what became of their rows. */
export function useTables(study: string) {
  return useQuery({
    queryKey: ["study", study, "tables"],
    queryFn: () => answered(api.GET("/api/studies/{study_id}/tables", path(study))),
    refetchInterval: whileWorking,
    placeholderData: (before) => before,
  });
}

/** How covariates are stated by hand; the same for all studies. */
export function useCovariateForms() {
  return useQuery({
    queryKey: ["covariate forms"],
    queryFn: () => answered(api.GET("/api/covariate-forms")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** What each choice about a finding does to the median, where Prepare leaves that for later. */
export function useMoves(study: string, wanted: boolean) {
  return useQuery({
    queryKey: ["study", study, "moves"],
    enabled: wanted,
    queryFn: () => answered(api.GET("/api/studies/{study_id}/prepare/moves", path(study))),
    refetchInterval: whileWorking,
  });
}

export function useDescribe(study: string, by: string | null) {
  return useQuery({
    queryKey: ["study", study, "describe", by],
    queryFn: () =>
      answered(
        api.GET("/api/studies/{study_id}/describe", {
          params: { path: { study_id: study }, query: by === null ? {} : { by } },
        }),
      ),
    refetchInterval: whileWorking,
    placeholderData: (before) => before,
    retry: false,
  });
}

export function usePlanInPlace(study: string) {
  return useQuery({
    queryKey: ["study", study, "plan-in-place"],
    queryFn: () => answered(api.GET("/api/studies/{study_id}/plan-in-place", path(study))),
  });
}

/** What of a plan fits the study's file; nothing is changed by asking. */
export function usePlanFit(study: string, plan: StudyPlan) {
  return useQuery({
    queryKey: ["study", study, "plan-fit", plan],
    queryFn: () =>
      answered(api.POST("/api/studies/{study_id}/plan-fit", { ...path(study), body: plan })),
    refetchInterval: whileWorking,
    retry: false,
    gcTime: 0,
  });
}

/** A model of a study on the rows of another; nothing is requested until one is chosen. */
export function useAppliedModel(study: string, to: string, letter: string, time: number | null) {
  return useQuery({
    queryKey: ["study", study, "applied-model", to, letter, time],
    enabled: to !== "",
    queryFn: () =>
      answered(
        api.GET("/api/studies/{study_id}/applied-model", {
          params: {
            path: { study_id: study },
            query: { to, letter, ...(time === null ? {} : { time }) },
          },
        }),
      ),
    refetchInterval: whileWorking,
    retry: false,
    gcTime: 0,
  });
}

export function cancelWork(work: string): Promise<unknown> {
  return answered(api.DELETE("/api/work/{work}", { params: { path: { work } } }));
}

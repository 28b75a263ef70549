import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, taken } from "./client";
import type {
  FindingDecision,
  FollowUp,
  LaterStage,
  NewDecision,
  Plan,
  Recipe,
  Reply,
  ResultOf,
  Statement,
  StepBody,
} from "./types";

const ASK_AGAIN_MS = 300;

const path = (study: string) => ({ params: { path: { study_id: study } } });

export function useStudies() {
  return useQuery({ queryKey: ["studies"], queryFn: () => taken(api.GET("/api/studies")) });
}

export function useHealth() {
  return useQuery({ queryKey: ["health"], queryFn: () => taken(api.GET("/api/health")) });
}

export function useStudy(study: string) {
  return useQuery({
    queryKey: ["study", study, "overview"],
    queryFn: () => taken(api.GET("/api/studies/{study_id}", path(study))),
  });
}

export function useDecisions(study: string, wanted: boolean) {
  return useQuery({
    queryKey: ["study", study, "decisions"],
    enabled: wanted,
    queryFn: () => taken(api.GET("/api/studies/{study_id}/decisions", path(study))),
  });
}

export function usePrepare(study: string) {
  const query = useQuery({
    queryKey: ["study", study, "stage", "prepare"],
    queryFn: () => taken(api.GET("/api/studies/{study_id}/prepare", path(study))),
    refetchInterval: (q) => (q.state.data?.reply.work ? ASK_AGAIN_MS : false),
  });
  useFreshSpine(study, query.data?.reply.result);
  return query;
}

/** A later stage's reply; asked again while the server is still at work on it. */
export function useStage<S extends LaterStage>(study: string, stage: S, wanted = true) {
  const query = useQuery({
    queryKey: ["study", study, "stage", stage],
    enabled: wanted,
    queryFn: async () =>
      (await taken(
        api.GET(`/api/studies/{study_id}/${stage as "estimate"}`, path(study)),
      )) as unknown as Reply<ResultOf[S]>,
    refetchInterval: (q) => (q.state.data?.work ? ASK_AGAIN_MS : false),
  });
  useFreshSpine(study, query.data?.result);
  return query;
}

/** A new result changes the spine's lines. */
function useFreshSpine(study: string, result: unknown) {
  const client = useQueryClient();
  useEffect(() => {
    if (result) void client.invalidateQueries({ queryKey: ["study", study, "overview"] });
  }, [client, study, result]);
}

export function useRows(study: string, first: number, most: number, numbers: number[] | null) {
  return useQuery({
    queryKey: ["study", study, "rows", first, most, numbers],
    queryFn: () =>
      taken(
        api.GET("/api/studies/{study_id}/rows", {
          params: {
            path: { study_id: study },
            query: numbers === null ? { first, most } : { first, most, numbers },
          },
        }),
      ),
    placeholderData: (before) => before,
  });
}

/** A change to a study: everything shown of it is asked for again. */
function useChange<V>(study: string, change: (value: V) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => client.invalidateQueries({ queryKey: ["study", study] }),
  });
}

export function usePutFollowUp(study: string) {
  return useChange(study, (body: FollowUp) =>
    taken(api.PUT("/api/studies/{study_id}/follow-up", { ...path(study), body })),
  );
}

export function usePutStatement(study: string) {
  return useChange(study, (body: Statement) =>
    taken(api.PUT("/api/studies/{study_id}/statement", { ...path(study), body })),
  );
}

export function useDecideFinding(study: string) {
  return useChange(study, (body: FindingDecision) =>
    taken(api.POST("/api/studies/{study_id}/findings", { ...path(study), body })),
  );
}

export function useDecideLayout(study: string) {
  return useChange(study, (body: { layout: string; reason: string }) =>
    taken(api.POST("/api/studies/{study_id}/layout", { ...path(study), body })),
  );
}

/** Take a step, or put it in the place of another. */
export function useTakeStep(study: string) {
  return useChange(
    study,
    ({ step, reason, insteadOf }: { step: StepBody; reason: string; insteadOf: number | null }) =>
      insteadOf === null
        ? taken(
            api.POST("/api/studies/{study_id}/steps", { ...path(study), body: { step, reason } }),
          )
        : taken(
            api.PUT("/api/studies/{study_id}/steps/{step_id}", {
              params: { path: { study_id: study, step_id: insteadOf } },
              body: { step, reason },
            }),
          ),
  );
}

/** What a step would do; asked again as it is written. */
export function useStepPreview(study: string, step: StepBody | null, insteadOf: number | null) {
  return useQuery({
    queryKey: ["step-preview", study, step, insteadOf],
    enabled: step !== null,
    queryFn: () =>
      taken(
        api.POST("/api/studies/{study_id}/steps/preview", {
          ...path(study),
          body: { step: step as StepBody, instead_of: insteadOf },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });
}

export function useArrangeSteps(study: string) {
  return useChange(study, (body: { what: string; steps: { id: number; active: boolean }[] }) =>
    taken(api.PUT("/api/studies/{study_id}/steps", { ...path(study), body })),
  );
}

export function useUndo(study: string) {
  return useChange(study, (way: "undo" | "redo") =>
    taken(api.POST(`/api/studies/{study_id}/steps/${way}`, path(study))),
  );
}

export function useApplyPlan(study: string) {
  return useChange(study, (body: Plan) =>
    taken(api.POST("/api/studies/{study_id}/plan", { ...path(study), body })),
  );
}

/** How the file is read, or would be by another recipe. */
export function useFileReading(study: string, recipe: Recipe | null) {
  return useQuery({
    queryKey: ["study", study, "file-reading", recipe],
    queryFn: () =>
      recipe === null
        ? taken(api.GET("/api/studies/{study_id}/file/reading", path(study)))
        : taken(api.POST("/api/studies/{study_id}/file/reading", { ...path(study), body: recipe })),
    placeholderData: (before) => before,
    retry: false,
  });
}

export function useChangeReading(study: string) {
  return useChange(study, (body: Recipe) =>
    taken(api.PUT("/api/studies/{study_id}/file/reading", { ...path(study), body })),
  );
}

export function useCuts(study: string, wanted: boolean) {
  return useQuery({
    queryKey: ["study", study, "cuts"],
    enabled: wanted,
    queryFn: () => taken(api.GET("/api/studies/{study_id}/cuts", path(study))),
    refetchInterval: (q) => (q.state.data?.work ? ASK_AGAIN_MS : false),
  });
}

export function useOpenCut(study: string) {
  return useChange(study, (cut: number) =>
    taken(
      api.POST("/api/studies/{study_id}/cuts/{cut_id}/current", {
        params: { path: { study_id: study, cut_id: cut } },
      }),
    ),
  );
}

export function useRefuseCut(study: string) {
  return useChange(study, (_: null) =>
    taken(api.DELETE("/api/studies/{study_id}/cuts/waiting", path(study))),
  );
}

export function useDescribe(study: string, by: string | null) {
  return useQuery({
    queryKey: ["study", study, "describe", by],
    queryFn: () =>
      taken(
        api.GET("/api/studies/{study_id}/describe", {
          params: { path: { study_id: study }, query: by === null ? {} : { by } },
        }),
      ),
    refetchInterval: (q) => (q.state.data?.work ? ASK_AGAIN_MS : false),
    placeholderData: (before) => before,
    retry: false,
  });
}

export function useDecide(study: string) {
  return useChange(study, (body: NewDecision) =>
    taken(api.POST("/api/studies/{study_id}/decisions", { ...path(study), body })),
  );
}

export function useWithdraw(study: string) {
  return useChange(study, (decision: number) =>
    taken(
      api.DELETE("/api/studies/{study_id}/decisions/{decision}", {
        params: { path: { study_id: study, decision } },
      }),
    ),
  );
}

export function useCreateStudy() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name?: string; demo?: string }) =>
      taken(api.POST("/api/studies", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["studies"] }),
  });
}

export function useDeleteStudy() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (study: string) => taken(api.DELETE("/api/studies/{study_id}", path(study))),
    onSuccess: () => client.invalidateQueries({ queryKey: ["studies"] }),
  });
}

export function cancelWork(work: string): Promise<unknown> {
  return taken(api.DELETE("/api/work/{work}", { params: { path: { work } } }));
}

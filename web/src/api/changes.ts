import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import { answered, api, Refusal } from "./client";
import { askAgain } from "./conflicts";
import { namesOf, path, type Renamed, stageKey } from "./queries";
import { madeFrom, recordBegun, recordSeen } from "./revisions";
import { type Put, setAt } from "./setAt";
import type {
  AnalysisLine,
  FindingDecision,
  FollowUp,
  GroupStyle,
  NewDecision,
  PrintSettings,
  Recipe,
  RecordTable,
  Reply,
  ShownTrack,
  Statement,
  StepBody,
  StepsDocument,
  StudyPlan,
} from "./types";
import { useView } from "./view";

/** What stands beside a result: requested after it, so that the server is at work on one thing. */
const AFTERWARDS: ReadonlySet<unknown> = new Set(["overview", "decisions"]);

/**
 * A change to a study: everything shown of it is fetched again. Changes are made one after the
 * other. One that was made from an older revision is made again if the user wants it.
 */
function useChange<V, R>(study: string, change: (value: V, client: QueryClient) => Promise<R>) {
  const client = useQueryClient();
  const refresh = async () => {
    // Parts wait for the result that they belong to, and are requested again with it.
    await client.invalidateQueries({ queryKey: ["study", study, "part"], refetchType: "none" });
    const request = (afterwards: boolean) =>
      client.invalidateQueries({
        queryKey: ["study", study],
        predicate: ({ queryKey: [, , what] }) =>
          what !== "part" && AFTERWARDS.has(what) === afterwards,
      });
    await request(false);
    void request(true);
  };
  return useMutation({
    scope: { id: study },
    mutationFn: async (value: V): Promise<R> => {
      for (;;) {
        try {
          return await change(value, client);
        } catch (error) {
          if (!(error instanceof Refusal && error.changed)) throw error;
          await refresh();
          if (!(await askAgain(error.changed))) throw error;
          // The user knows what was changed since, though parts of the page may still be on their way.
          recordSeen(madeFrom(study), `"${error.revision}"`);
        }
      }
    },
    onSuccess: refresh,
  });
}

const kept = <T>(client: QueryClient, study: string, stage: string, analysis?: number | null) =>
  client.getQueryData<T>(stageKey(study, stage, analysis));

export function usePutFollowUp(study: string) {
  return useChange(study, (made: Put, client) => {
    const now = kept<{ follow_up: FollowUp }>(client, study, "prepare")?.follow_up;
    const body = setAt(now as FollowUp, made);
    return answered(api.PUT("/api/studies/{study_id}/follow-up", { ...path(study), body }));
  });
}

/** Put something into the statement of a stage, as it is when its turn comes. */
export function usePutStatement(study: string, stage: string, analysis?: number | null) {
  return useChange(study, (made: Put, client) => {
    const now = kept<Reply<unknown>>(client, study, stage, analysis)?.statement;
    return putStatement(study, setAt(now as Statement, made), analysis);
  });
}

/** Put a whole statement, as it was proposed: that of the view it was proposed in, or of another stage. */
export function useStatement(study: string) {
  const view = useView();
  return useChange(study, (statement: Statement) =>
    putStatement(study, statement, statement.stage === view.stage ? view.analysis : null),
  );
}

function putStatement(study: string, body: Statement, analysis?: number | null) {
  return answered(
    api.PUT("/api/studies/{study_id}/statement", {
      params: { path: { study_id: study }, query: analysis ? { analysis } : {} },
      body: body as never,
    }),
  );
}

/** Begin another analysis of a stage, as a copy of one; gives its id. */
export function useBegin(study: string) {
  return useChange(study, (body: { stage: string; name: string; copy_of: number | null }) =>
    answered(api.POST("/api/studies/{study_id}/analyses", { ...path(study), body })),
  );
}

/** Name an analysis. */
export function useNameAnalysis(study: string) {
  return useChange(
    study,
    ({ line: { id, position, needs }, name }: { line: AnalysisLine; name: string }) =>
      answered(
        api.PATCH("/api/studies/{study_id}/analyses/{analysis_id}", {
          params: { path: { study_id: study, analysis_id: id } },
          body: { name, position, needs },
        }),
      ),
  );
}

/** Delete an analysis; undoing brings it back. */
export function useRemoveAnalysis(study: string, stage: string) {
  return useChange(study, async (id: number, client) => {
    await answered(
      api.DELETE("/api/studies/{study_id}/analyses/{analysis_id}", {
        params: { path: { study_id: study, analysis_id: id } },
      }),
    );
    // What is deleted is not fetched again.
    client.removeQueries({ queryKey: stageKey(study, stage, id) });
  });
}

/** Undo or redo the last change to the study, in whichever stage it was made. */
export function useMove(study: string) {
  return useChange(study, (way: "undo" | "redo") =>
    answered(api.POST(`/api/studies/{study_id}/${way}`, path(study))),
  );
}

export function useRename(study: string) {
  return useChange(study, async (name: string, client) => {
    await answered(api.PATCH("/api/studies/{study_id}", { ...path(study), body: { name } }));
    await client.invalidateQueries({ queryKey: ["studies"] });
  });
}

/** State which tracks a view shows. */
export function useSetTracks(study: string, view: string) {
  return useChange(study, (body: ShownTrack[]) =>
    answered(
      api.PUT("/api/studies/{study_id}/tracks/{view}", {
        params: { path: { study_id: study, view } },
        body,
      }),
    ),
  );
}

/** State how a group is drawn. */
export function useSetLook(study: string, view: string) {
  return useChange(study, (body: GroupStyle) =>
    answered(
      api.PUT("/api/studies/{study_id}/group-styles/{view}", {
        params: { path: { study_id: study, view } },
        body,
      }),
    ),
  );
}

/** Give a level of a category another name, in every view. */
export function useNameLevel(study: string) {
  return useChange(study, (body: { column: string; level: string; name: string }) =>
    answered(api.POST("/api/studies/{study_id}/level-names", { ...path(study), body })),
  );
}

/** Keep how the figure of a view is printed. */
export function useKeepPrintSettings(study: string, view: string) {
  return useChange(study, (body: PrintSettings) =>
    answered(
      api.PUT("/api/studies/{study_id}/figures/{view}", {
        params: { path: { study_id: study, view } },
        body,
      }),
    ),
  );
}

export function useDecideFinding(study: string) {
  return useChange(study, (body: FindingDecision) =>
    answered(api.POST("/api/studies/{study_id}/findings", { ...path(study), body })),
  );
}

export function useDecideLayout(study: string) {
  return useChange(study, (body: { layout: string; reason: string }) =>
    answered(api.POST("/api/studies/{study_id}/layout", { ...path(study), body })),
  );
}

/** Take a step, or put it in the place of another. */
export function useTakeStep(study: string) {
  return useChange(
    study,
    ({ step, reason, insteadOf }: { step: StepBody; reason: string; insteadOf: number | null }) =>
      insteadOf === null
        ? answered(
            api.POST("/api/studies/{study_id}/steps", { ...path(study), body: { step, reason } }),
          )
        : answered(
            api.PUT("/api/studies/{study_id}/steps/{step_id}", {
              params: { path: { study_id: study, step_id: insteadOf } },
              body: { step, reason },
            }),
          ),
  );
}

export function useArrangeSteps(study: string) {
  return useChange(study, (body: { steps: { id: number; active: boolean }[] }) =>
    answered(api.PUT("/api/studies/{study_id}/steps", { ...path(study), body })),
  );
}

export function useApplySteps(study: string) {
  return useChange(study, (body: StepsDocument) =>
    answered(api.PUT("/api/studies/{study_id}/steps.json", { ...path(study), body })),
  );
}

/** A whole plan in the place of what was decided; the document goes as it was read. */
export function useApplyStudyPlan(study: string) {
  return useChange(study, (body: StudyPlan) =>
    answered(api.PUT("/api/studies/{study_id}/plan-in-place", { ...path(study), body })),
  );
}

export function useSealPlan(study: string) {
  return useChange(study, (_: null) =>
    answered(api.POST("/api/studies/{study_id}/seal", path(study))),
  );
}

export function useChangeReading(study: string) {
  return useChange(study, (body: Recipe) =>
    answered(api.PUT("/api/studies/{study_id}/file/reading", { ...path(study), body })),
  );
}

export function useOpenExtract(study: string) {
  return useChange(study, ({ id, renamed }: { id: number; renamed: Renamed }) =>
    answered(
      api.POST("/api/studies/{study_id}/extracts/{extract_id}/current", {
        params: { path: { study_id: study, extract_id: id }, query: namesOf(renamed) },
      }),
    ),
  );
}

export function usePutTable(study: string) {
  return useChange(study, (body: RecordTable) =>
    answered(
      api.PUT("/api/studies/{study_id}/tables/{table}", {
        params: { path: { study_id: study, table: body.name } },
        body,
      }),
    ),
  );
}

/** The steps of a further table, in the place of those that it has. */
export function useSetTableSteps(study: string) {
  return useChange(study, ({ table, steps }: { table: string; steps: StepBody[] }) =>
    answered(
      api.PUT("/api/studies/{study_id}/tables/{table}/steps", {
        params: { path: { study_id: study, table } },
        body: { steps, reason: "" },
      }),
    ),
  );
}

export function useRemoveTable(study: string) {
  return useChange(study, (table: string) =>
    answered(
      api.DELETE("/api/studies/{study_id}/tables/{table}", {
        params: { path: { study_id: study, table } },
      }),
    ),
  );
}

export function useRefuseExtract(study: string) {
  return useChange(study, (_: null) =>
    answered(api.DELETE("/api/studies/{study_id}/extracts/waiting", path(study))),
  );
}

export function useDecide(study: string) {
  return useChange(study, (body: NewDecision) =>
    answered(api.POST("/api/studies/{study_id}/decisions", { ...path(study), body })),
  );
}

export function useWithdraw(study: string) {
  return useChange(study, (decision: number) =>
    answered(
      api.DELETE("/api/studies/{study_id}/decisions/{decision}", {
        params: { path: { study_id: study, decision } },
      }),
    ),
  );
}

function useList<V, R>(change: (value: V) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: async () => {
      // A list that is on its way may be older than the change: a second one would be taken for it.
      await client.cancelQueries({ queryKey: ["studies"] });
      await client.invalidateQueries({ queryKey: ["studies"] });
    },
  });
}

export function useCreateStudy() {
  return useList(async (body: { name?: string; demo?: string }) => {
    const begun = await answered(api.POST("/api/studies", { body }));
    recordBegun(begun);
    return begun;
  });
}

export function useDeleteStudy() {
  return useList((study: string) => answered(api.DELETE("/api/studies/{study_id}", path(study))));
}

export function useRestoreStudy() {
  return useList((study: string) =>
    answered(api.POST("/api/studies/{study_id}/restore", path(study))),
  );
}

/** A copy of a study, with every decision that stands; gives its id. */
export function useDuplicateStudy() {
  return useList(({ study, name }: { study: string; name: string }) =>
    answered(api.POST("/api/studies/{study_id}/duplicate", { ...path(study), body: { name } })),
  );
}

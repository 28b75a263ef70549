import type { ReactNode } from "react";
import { usePutStatement, useStage } from "../api/queries";
import type { LaterStage as LaterStageName, ResultOf, Sentence, Statement } from "../api/types";
import { setAt } from "../statement/setAt";
import { Blocked, StagePage, Working } from "./StagePage";

/** A later stage: asks for its result, shows what blocks it or works on it, else its view. */
export function LaterStage<S extends LaterStageName>({
  study,
  stage,
  title,
  hint,
  context,
  view,
}: {
  study: string;
  stage: S;
  title: string;
  hint: string;
  context: (result: ResultOf[S]) => ReactNode;
  view: (result: ResultOf[S]) => { main: ReactNode; readings: ReactNode };
}) {
  const query = useStage(study, stage);
  const put = usePutStatement(study);
  const reply = query.data;
  const result = reply?.result as ResultOf[S] | null | undefined;
  const shown = result ? view(result) : null;
  const statement = reply?.statement;
  return (
    <StagePage
      study={study}
      title={title}
      hint={hint}
      context={result ? context(result) : null}
      sentence={(result as { sentence: Sentence } | null | undefined)?.sentence}
      onSet={(field, value) => {
        if (statement) put.mutate(setAt<Statement>(statement, field, value));
      }}
      changing={put.isPending || (query.isFetching && !query.isLoading)}
      error={put.error ?? query.error}
      readings={shown?.readings ?? null}
    >
      {reply?.blocked ? <Blocked study={study} blocks={reply.blocked} /> : null}
      {reply?.work ? <Working work={reply.work} /> : null}
      {query.isLoading ? <p className="notice quiet">Opening …</p> : null}
      {shown?.main}
    </StagePage>
  );
}

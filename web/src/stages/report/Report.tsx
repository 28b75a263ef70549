import { useSearchParams } from "react-router";
import { usePutStatement } from "../../api/changes";
import { useStage } from "../../api/queries";
import type { ReportResult, ReportWords } from "../../api/types";
import { Blocked, StagePage, Working } from "../../frame/StagePage";
import { useLast } from "../../frame/useLast";
import { Readings } from "../../readings/Readings";
import { Pieces } from "./Pieces";
import { ReportSide } from "./ReportSide";
import { ReportStrip } from "./ReportStrip";
import "./Report.css";

/** The report, composed on its page: pieces moved and left out, words edited, saved in any form. */
export function Report({ study, stage }: { study: string; stage: string }) {
  const [search] = useSearchParams();
  const report = Number(search.get("report")) || null;
  const query = useStage<ReportResult>(study, stage, report);
  const put = usePutStatement(study, stage, report);
  const reply = query.data;
  const last = useLast(`${study} ${report}`, reply?.result);
  const result = reply?.blocked ? undefined : last;
  const replaced = Boolean(result) && !reply?.result;
  const work = reply?.work;
  const statement = reply?.statement as { words?: Record<string, unknown>; left_out?: string[] };
  const onSet = (field: string, value: unknown) => put.mutate({ field, value });
  const onWrite = (words: ReportWords, text: string | null) => {
    const { [words.key]: _, ...others } = statement?.words ?? {};
    onSet("words", text === null ? others : { ...others, [words.key]: { text, was: words.made } });
  };
  const leftOut = statement?.left_out ?? [];
  const onLeaveOut = (key: string) => onSet("left_out", [...leftOut, key]);
  const onPutBack = (key: string) =>
    onSet(
      "left_out",
      leftOut.filter((one) => one !== key),
    );
  return (
    <StagePage
      study={study}
      title="Report"
      replaced={replaced}
      hint="the numbers of the report open their workings in the stage they come from"
      context={<ReportStrip study={study} report={report} />}
      sentence={result?.sentence}
      onSet={onSet}
      changing={put.isPending || Boolean(work) || (query.isFetching && !query.isLoading)}
      error={put.error ?? query.error}
      readings={
        result ? (
          <Readings>
            <ReportSide study={study} report={report} result={result} onPutBack={onPutBack} />
          </Readings>
        ) : null
      }
    >
      {reply?.blocked ? <Blocked study={study} blocks={reply.blocked} /> : null}
      {work && !query.isError ? <Working work={work} over={replaced} /> : null}
      {query.isLoading ? <p className="notice quiet">Opening …</p> : null}
      {result ? (
        <article className="report-page" inert={replaced}>
          <Heading result={result} />
          <Pieces
            study={study}
            pieces={result.pieces}
            order={result.order}
            onOrder={(order) => onSet("order", order)}
            onLeaveOut={onLeaveOut}
            onWrite={onWrite}
          />
        </article>
      ) : null}
    </StagePage>
  );
}

function Heading({ result }: { result: ReportResult }) {
  return (
    <header>
      <h2 className="report-title">{result.title}</h2>
      <p className="quiet">{result.line}</p>
    </header>
  );
}

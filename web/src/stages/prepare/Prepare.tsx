import { useState } from "react";
import { usePrepare, usePutFollowUp, useStudy } from "../../api/queries";
import type { PrepareResult, StudyOverview } from "../../api/types";
import { StagePage, Working } from "../../frame/StagePage";
import { whole } from "../../numbers/format";
import { Numbers, Readings, Section } from "../../readings/Readings";
import { setAt } from "../../statement/setAt";
import { Findings } from "./Findings";
import { FollowUpPicture } from "./FollowUpPicture";
import { Ledger } from "./Ledger";
import { RowsTable } from "./RowsTable";
import { Upload } from "./Upload";
import "./prepare.css";

/** From a messy file to a cohort: the follow-up statement, findings, steps, and where rows went. */
export function Prepare({ study }: { study: string }) {
  const overview = useStudy(study).data;
  const query = usePrepare(study);
  const put = usePutFollowUp(study);
  const [marked, setMarked] = useState<number[] | null>(null);
  const result = query.data?.reply.result;
  return (
    <StagePage
      study={study}
      title="Prepare"
      hint="are opened in the later stages, by choosing an underlined number"
      context={<FileLine overview={overview} />}
      sentence={result?.sentence}
      onSet={(field, value) => {
        if (query.data) put.mutate(setAt(query.data.follow_up, field, value));
      }}
      changing={put.isPending || (query.isFetching && !query.isLoading)}
      error={put.error ?? query.error}
      readings={
        result ? (
          <PrepareReadings study={study} result={result} marked={marked} onMark={setMarked} />
        ) : null
      }
    >
      {overview && !overview.file ? <Upload study={study} /> : null}
      {query.data?.reply.work ? <Working work={query.data.reply.work} /> : null}
      {result ? (
        <>
          <RowsTable
            study={study}
            columns={result.columns}
            marked={marked}
            onAll={() => setMarked(null)}
          />
          <FollowUpPicture result={result} />
        </>
      ) : null}
    </StagePage>
  );
}

function FileLine({ overview }: { overview: StudyOverview | undefined }) {
  const file = overview?.file;
  if (!file) return <>no file yet</>;
  return (
    <>
      <b>{file.name}</b> · {whole(file.rows)} rows · {file.how_read}
    </>
  );
}

function PrepareReadings({
  study,
  result,
  marked,
  onMark,
}: {
  study: string;
  result: PrepareResult;
  marked: number[] | null;
  onMark: (rows: number[] | null) => void;
}) {
  return (
    <Readings>
      {result.blocks.length ? (
        <Section title="Before the next stages">
          {result.blocks.map((block) => (
            <p key={block.sentence} className="block-line">
              {block.sentence}
            </p>
          ))}
        </Section>
      ) : null}
      <Findings study={study} findings={result.findings} marked={marked} onMark={onMark} />
      <Section title="Steps">
        {result.steps.length ? (
          <Numbers
            label="Steps"
            rows={result.steps.map((step, k) => [
              `${k + 1} ${step.name}`,
              step.rows_set_aside
                ? `−${whole(step.rows_set_aside)}`
                : `${whole(step.cells_changed)} cells`,
            ])}
          />
        ) : (
          <p className="quiet">
            No step yet. The file itself is never changed; a decision can be withdrawn in the
            decisions log.
          </p>
        )}
      </Section>
      <Ledger ledger={result.ledger} />
    </Readings>
  );
}

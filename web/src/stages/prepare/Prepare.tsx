import Button from "@mui/material/Button";
import { useState } from "react";
import { usePutFollowUp } from "../../api/changes";
import { usePrepare, useStudy } from "../../api/queries";
import type { PrepareResult, StudyOverview } from "../../api/types";
import { StagePage, Working } from "../../frame/StagePage";
import { useLast } from "../../frame/useLast";
import { grouped } from "../../numbers/format";
import { Readings, Section } from "../../readings/Readings";
import { Describe } from "./Describe";
import { Extracts } from "./Extracts";
import { FileReading } from "./FileReading";
import { Findings } from "./Findings";
import { FollowUpPicture } from "./FollowUpPicture";
import { Layouts } from "./Layouts";
import { Ledger } from "./Ledger";
import { RowsTable } from "./RowsTable";
import { Steps } from "./steps/Steps";
import { TakeOut } from "./TakeOut";
import { Tables } from "./tables/Tables";
import { TablesLine } from "./tables/TablesLine";
import { Upload } from "./Upload";
import "./Prepare.css";

type View = "rows" | "describe";
type Dialog = "reading" | "extracts" | "tables";

/** From a messy file to a cohort: the follow-up statement, findings, steps, and where rows went. */
export function Prepare({ study }: { study: string }) {
  const overview = useStudy(study).data;
  const query = usePrepare(study);
  const put = usePutFollowUp(study);
  const [marked, setMarked] = useState<number[] | null>(null);
  const [view, setView] = useState<View>("rows");
  const [dialog, setDialog] = useState<Dialog | null>(null);
  const [replacing, setReplacing] = useState(false);
  const fresh = query.data?.reply.result;
  const result = useLast(study, fresh);
  const working = query.data?.reply.work;
  const instead = overview?.file
    ? { instead: overview.file.name, onTaken: () => setReplacing(false) }
    : {};
  return (
    <StagePage
      study={study}
      title="Prepare"
      hint="choose a row’s time to see how it arose"
      context={
        <FileLine
          study={study}
          overview={overview}
          waiting={query.data?.waiting ?? false}
          onOpen={(which) => setDialog(which)}
          onReplace={() => setReplacing(true)}
        />
      }
      sentence={result?.sentence}
      onSet={(field, value, added) => put.mutate({ field, value, adds: added !== undefined })}
      changing={put.isPending || Boolean(working) || (query.isFetching && !query.isLoading)}
      error={put.error ?? query.error}
      readings={
        result ? (
          <PrepareReadings study={study} result={result} marked={marked} onMark={setMarked} />
        ) : null
      }
    >
      {overview && (!overview.file || replacing) ? <Upload study={study} {...instead} /> : null}
      {working ? <Working work={working} /> : null}
      {result ? (
        <>
          <Layouts study={study} layouts={result.layouts} />
          <ViewBar {...{ study, view, ready: result.ledger.analysed !== null, onView: setView }} />
          {view === "rows" ? (
            <Rows study={study} result={result} marked={marked} onAll={() => setMarked(null)} />
          ) : (
            <Describe study={study} />
          )}
        </>
      ) : null}
      {dialog === "reading" ? <FileReading study={study} onClose={() => setDialog(null)} /> : null}
      {dialog === "extracts" ? <Extracts study={study} onClose={() => setDialog(null)} /> : null}
      {dialog === "tables" ? <Tables study={study} onClose={() => setDialog(null)} /> : null}
    </StagePage>
  );
}

interface RowsProps {
  study: string;
  result: PrepareResult;
  marked: number[] | null;
  onAll: () => void;
}

/** The rows as they are, and the follow-up of each. */
function Rows({ study, result, marked, onAll }: RowsProps) {
  return (
    <>
      <RowsTable study={study} columns={result.columns} marked={marked} onAll={onAll} />
      <FollowUpPicture study={study} figure={result.figure} drawing={result.drawing} />
    </>
  );
}

function FileLine({
  study,
  overview,
  waiting,
  onOpen,
  onReplace,
}: {
  study: string;
  overview: StudyOverview | undefined;
  waiting: boolean;
  onOpen: (which: Dialog) => void;
  onReplace: () => void;
}) {
  const file = overview?.file;
  if (!file) return <>no file yet</>;
  return (
    <>
      <b>{file.name}</b> · {grouped(file.rows)} rows ·{" "}
      <button type="button" className="in-line" onClick={() => onOpen("reading")}>
        {file.how_read}
      </button>{" "}
      ·{" "}
      <button type="button" className="in-line" onClick={() => onOpen("extracts")}>
        {waiting ? "a new data extract waits to be accepted" : "new data extract"}
      </button>{" "}
      · <TablesLine study={study} onOpen={() => onOpen("tables")} />
      {overview.replaceable ? (
        <>
          {" "}
          ·{" "}
          <button type="button" className="in-line" onClick={onReplace}>
            another file
          </button>
        </>
      ) : null}
    </>
  );
}

function ViewBar({
  study,
  view,
  ready,
  onView,
}: {
  study: string;
  view: View;
  ready: boolean;
  onView: (view: View) => void;
}) {
  return (
    <div className="view-bar">
      {(["rows", "describe"] as const).map((one) => (
        <Button
          key={one}
          aria-pressed={view === one}
          disabled={one === "describe" && !ready}
          className={view === one ? "chosen" : ""}
          onClick={() => onView(one)}
        >
          {one === "rows" ? "Rows" : "Describe"}
        </Button>
      ))}
      <TakeOut study={study} ready={ready} />
    </div>
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
      {result.blocks.length && result.proposed.length ? (
        <Section title="Proposed from the file">
          <dl className="proposed">
            {result.proposed.map((part) => (
              <div key={part.part}>
                <dt>
                  <span className="quiet">{part.part}</span> {part.value}
                </dt>
                <dd className="quiet">{part.because}</dd>
              </div>
            ))}
          </dl>
        </Section>
      ) : null}
      <Findings
        study={study}
        findings={result.findings}
        movesLater={result.moves_later}
        marked={marked}
        onMark={onMark}
      />
      <Steps study={study} steps={result.steps} columns={result.columns} />
      <Ledger ledger={result.ledger} />
    </Readings>
  );
}

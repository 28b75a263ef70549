import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { useBegin, useNameAnalysis, useRemoveAnalysis } from "../../api/changes";
import { useStudy } from "../../api/queries";
import { AskWords } from "../../frame/AskWords";

/** The reports of a study: one is shown; another can be begun as a copy of it. */
export function ReportStrip({ study, report }: { study: string; report: number | null }) {
  const [, setSearch] = useSearchParams();
  const lines = useStudy(study).data?.stages.find((line) => line.stage === "report")?.analyses;
  const begin = useBegin(study);
  const rename = useNameAnalysis(study);
  const setLeaving = useLeaving(study, report);
  const [asking, setAsking] = useState<"begin" | "name" | null>(null);
  const reports = lines ?? [];
  const shown = reports.find((one) => one.id === report) ?? reports[0];
  const open = (id: number | null) => setSearch(id === null ? {} : { report: String(id) });
  const close = () => setAsking(null);
  const leave = (id: number) => {
    setLeaving(id);
    open(null);
  };
  const writeName = (name: string) => {
    if (asking === "name" && shown) rename.mutate({ line: shown, name }, { onSuccess: close });
    else
      begin.mutate(
        { stage: "report", name, copy_of: shown?.id ?? null },
        {
          onSuccess: (made) => {
            close();
            if (made) open(made.id);
          },
        },
      );
  };
  return (
    <nav className="report-strip" aria-label="Reports of this study">
      {reports.length > 1 ? <Others reports={reports} shown={shown} onOpen={open} /> : null}
      <Button size="small" onClick={() => setAsking("begin")}>
        Begin another report
      </Button>
      {reports.length > 1 && shown ? (
        <Button size="small" onClick={() => setAsking("name")}>
          Rename
        </Button>
      ) : null}
      {shown && shown !== reports[0] ? (
        <Button size="small" onClick={() => leave(shown.id)}>
          Delete this report
        </Button>
      ) : null}
      {asking ? (
        <AskWords
          title={asking === "name" ? "Rename the report" : "Another report"}
          question="What is it called?"
          act={asking === "name" ? "Rename" : "Begin"}
          busy={begin.isPending || rename.isPending}
          error={begin.error ?? rename.error}
          onClose={close}
          onSubmit={writeName}
        />
      ) : null}
    </nav>
  );
}

interface Line {
  id: number;
  name: string;
}

interface OthersProps {
  reports: readonly Line[];
  shown: Line | undefined;
  onOpen: (report: number | null) => void;
}

/** Every report of the study, the one that is shown marked. */
function Others({ reports, shown, onOpen }: OthersProps) {
  return reports.map((one, k) => (
    <Button
      key={one.id}
      size="small"
      aria-current={one === shown ? "page" : undefined}
      variant={one === shown ? "outlined" : "text"}
      onClick={() => onOpen(k === 0 ? null : one.id)}
    >
      {one.name || (k === 0 ? "First report" : `Report ${k + 1}`)}
    </Button>
  ));
}

/** Deletes a report when its page has gone: a page that still shows it would fetch it once more. */
function useLeaving(study: string, shown: number | null): (report: number) => void {
  const { mutate: remove } = useRemoveAnalysis(study, "report");
  const [leaving, setLeaving] = useState<number | null>(null);
  useEffect(() => {
    if (leaving === null || shown === leaving) return;
    setLeaving(null);
    remove(leaving);
  }, [leaving, shown, remove]);
  return setLeaving;
}

import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { useBegin, useNameAnalysis, useRemoveAnalysis } from "../../api/changes";
import { useStudy } from "../../api/queries";
import { AskWords } from "../../frame/AskWords";

/** The reports of a study: one is shown; another can be begun as a copy of it. */
export function ReportRail({ study, report }: { study: string; report: number | null }) {
  const [, setSearch] = useSearchParams();
  const lines = useStudy(study).data?.stages.find((line) => line.stage === "report")?.analyses;
  const begin = useBegin(study);
  const rename = useNameAnalysis(study);
  const { mutate: remove } = useRemoveAnalysis(study, "report");
  const [leaving, setLeaving] = useState<number | null>(null);
  const [asking, setAsking] = useState<"begin" | "name" | null>(null);
  const reports = lines ?? [];
  const shown = reports.find((one) => one.id === report) ?? reports[0];
  const open = (id: number | null) => setSearch(id === null ? {} : { report: String(id) });
  const close = () => setAsking(null);
  // A report is deleted when its page has gone: a page that still shows it would fetch it once more.
  useEffect(() => {
    if (leaving === null || report === leaving) return;
    setLeaving(null);
    remove(leaving);
  }, [leaving, report, remove]);
  const say = (name: string) => {
    if (asking === "name" && shown)
      rename.mutate({ id: shown.id, name, position: shown.position }, { onSuccess: close });
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
    <nav className="report-rail" aria-label="Reports of this study">
      {reports.length > 1
        ? reports.map((one, k) => (
            <Button
              key={one.id}
              size="small"
              aria-current={one === shown ? "page" : undefined}
              variant={one === shown ? "outlined" : "text"}
              onClick={() => open(k === 0 ? null : one.id)}
            >
              {one.name || (k === 0 ? "First report" : `Report ${k + 1}`)}
            </Button>
          ))
        : null}
      <Button size="small" onClick={() => setAsking("begin")}>
        Begin another report
      </Button>
      {reports.length > 1 && shown ? (
        <>
          <Button size="small" onClick={() => setAsking("name")}>
            Rename
          </Button>
          {shown !== reports[0] ? (
            <Button
              size="small"
              onClick={() => {
                setLeaving(shown.id);
                open(null);
              }}
            >
              Delete this report
            </Button>
          ) : null}
        </>
      ) : null}
      {asking ? (
        <AskWords
          title={asking === "name" ? "Rename the report" : "Another report"}
          question="What is it called?"
          act={asking === "name" ? "Rename" : "Begin"}
          busy={begin.isPending || rename.isPending}
          error={begin.error ?? rename.error}
          onClose={close}
          onSay={say}
        />
      ) : null}
    </nav>
  );
}

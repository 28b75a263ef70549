import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { useSavedReport } from "../../api/queries";
import type { ReportResult } from "../../api/types";
import { Working } from "../../frame/StagePage";
import { Section } from "../../readings/Readings";

interface Props {
  study: string;
  report: number | null;
  forms: ReportResult["forms"];
}

/** The forms that the report is saved in; one that takes its time shows how far it is. */
export function SaveReport({ study, report, forms }: Props) {
  const [chosen, choose] = useState<string | null>(null);
  return (
    <Section title="Save the report">
      <ul className="plain-list">
        {forms.map(({ key, words }) => (
          <li key={key}>
            <Button onClick={() => choose(key)} sx={{ minWidth: 0 }}>
              {key.toUpperCase()}
            </Button>
            <span className="quiet">{words}</span>
          </li>
        ))}
      </ul>
      {chosen ? (
        <Saving study={study} report={report} form={chosen} onEnd={() => choose(null)} />
      ) : null}
    </Section>
  );
}

/** Has the report written, and hands it to the browser once it is. */
function Saving({
  study,
  report,
  form,
  onEnd,
}: {
  study: string;
  report: number | null;
  form: string;
  onEnd: () => void;
}) {
  const { data, error } = useSavedReport(study, form, report);
  const ready = data?.ready;
  useEffect(() => {
    if (!ready) return;
    const which = report === null ? "" : `?analysis=${report}`;
    handOver(`/api/studies/${study}/report.${form}${which}`);
    onEnd();
  }, [ready, study, report, form, onEnd]);
  if (error) {
    return (
      <p className="notice" role="alert">
        {error.message}
      </p>
    );
  }
  return data?.work ? <Working work={data.work} /> : null;
}

/** Has the browser save what lies at an address. */
function handOver(address: string) {
  const link = document.createElement("a");
  link.href = address;
  link.download = "";
  link.click();
}

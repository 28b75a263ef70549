import type { ModelResult } from "../../api/types";
import { AnalysisPage } from "../../frame/AnalysisPage";
import { Forest } from "./Forest";

/** The rate of the event by several terms together: the ratios with their picture. */
export function Model({ study, stage }: { study: string; stage: string }) {
  return (
    <AnalysisPage<ModelResult>
      study={study}
      stage={stage}
      main={(result) => <Forest stage={stage} rows={result.forest} />}
    />
  );
}

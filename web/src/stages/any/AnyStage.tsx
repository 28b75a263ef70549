import { AnalysisPage } from "../../frame/AnalysisPage";

/** A stage that needs nothing of its own: its figure and sections are all. */
export function AnyStage({ study, stage }: { study: string; stage: string }) {
  return <AnalysisPage study={study} stage={stage} />;
}

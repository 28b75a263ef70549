import type { components } from "./schema";

type Schemas = components["schemas"];

export type StudyOverview = Schemas["StudyOverview"];
export type StageLine = Schemas["StageLine"];
export type StudyList = Schemas["StudyList"];
export type Decision = Schemas["DecisionReading"];
export type FindingDecision = Schemas["FindingDecision"];
export type NewDecision = Schemas["NewDecision"];
export type Problem = Schemas["Problem"];
export type Work = Schemas["WorkReading"];
export type Block = Schemas["BlockReading"];

export type Sentence = Schemas["Sentence"];
export type Slot = Schemas["Slot"];
export type Option = Schemas["Option"];
export type CodeRow = Schemas["CodeRow"];

export type FollowUp = Schemas["FollowUpStatement"];
export type PrepareResult = Schemas["PrepareResult"];
export type Finding = Schemas["FindingReading"];
export type ColumnReading = Schemas["ColumnReading"];
export type Choice = Schemas["ChoiceReading"];
export type StepReading = Schemas["StepReading"];
export type StepPreview = Schemas["StepPreview"];
export type Ledger = Schemas["LedgerReading"];
export type Plan = Schemas["Plan"];
export type FileReading = Schemas["FileReadingReply"];
export type Recipe = Schemas["Recipe"];
export type Cuts = Schemas["CutsReply"];
export type CutComparison = Schemas["CutComparison"];
export type Describe = Schemas["DescribeResult"];
/** A step as it is sent: its kind, and the fields of that kind. */
export type StepBody = Schemas["NewStep"]["step"];
export type FollowUpLine = Schemas["FollowUpLine"];

export type EstimateResult = Schemas["EstimateResult"];
export type CompareResult = Schemas["CompareResult"];
export type ModelResult = Schemas["ModelResult"];
export type CheckResult = Schemas["CheckResult"];
export type ReportResult = Schemas["ReportResult"];
export type CohortSummary = Schemas["CohortSummary"];
export type CurveReading = Schemas["CurveReading"];
export type QuantileReading = Schemas["QuantileReading"];
export type Difference = Schemas["DifferenceReading"];
export type Ratio = Schemas["RatioReading"];
export type Coefficient = Schemas["CoefficientReading"];
export type ChiSquared = Schemas["ChiSquared"];
export type Caution = Schemas["Caution"];
export type Remedy = Schemas["Remedy"];
export type TermCheck = Schemas["TermCheck"];
export type Workings = Schemas["Workings"];

export type Figure = Schemas["Figure"];
export type Track = Schemas["Track"];
export type Axis = Schemas["Axis"];
export type Line = Schemas["Line"];
export type Area = Schemas["Area"];
export type Marks = Schemas["Marks"];

export type Stage = StageLine["stage"];
/** Stages whose statement goes to the common address; Prepare has its own. */
export type LaterStage = Exclude<Stage, "prepare">;
export const STAGES: readonly Stage[] = [
  "prepare",
  "estimate",
  "compare",
  "model",
  "check",
  "report",
];
export type Statement =
  | Schemas["EstimateStatement-Output"]
  | Schemas["CompareStatement-Output"]
  | Schemas["ModelStatement-Output"]
  | Schemas["CheckStatement-Output"]
  | Schemas["ReportStatement-Output"];

/** The result of each later stage. */
export interface ResultOf {
  estimate: EstimateResult;
  compare: CompareResult;
  model: ModelResult;
  check: CheckResult;
  report: ReportResult;
}

/** One of: a result, the work that will bring it, or what blocks it. */
export interface Reply<R> {
  result?: R | null;
  statement?: Statement | null;
  work?: Work | null;
  blocked?: Block[] | null;
}

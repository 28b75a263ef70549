import type { components } from "./schema";

type Schemas = components["schemas"];

export type StudyOverview = Schemas["StudyOverview"];
export type StageLine = Schemas["StageLine"];
export type AnalysisLine = Schemas["AnalysisLine"];
export type BesideReply = Schemas["BesideReply"];
export type StudyList = Schemas["StudyList"];
export type Decision = Schemas["DecisionView"];
export type FindingDecision = Schemas["FindingDecision"];
export type NewDecision = Schemas["NewDecision"];
export type Problem = Schemas["Problem"];
export type Work = Schemas["WorkView"];
/** What must be decided first. */
export type Blocking = Schemas["BlockerView"];

export type Sentence = Schemas["Sentence"];
export type Slot = Schemas["Slot"];
export type Option = Schemas["Option"];
export type CodeRow = Schemas["CodeRow"];

export type FollowUp = Schemas["FollowUpStatement"];
export type PrepareResult = Schemas["PrepareResult"];
export type Finding = Schemas["FindingView"];
export type RowPage = Schemas["RowPage"];
export type RowView = Schemas["RowView"];
export type ColumnView = Schemas["ColumnView"];
export type Choice = Schemas["ChoiceView"];
export type StepView = Schemas["StepView"];
export type StepPreview = Schemas["StepPreview"];
export type Ledger = Schemas["LedgerView"];
export type StepsDocument = Schemas["StepsDocument"];
export type StudyPlan = Schemas["StudyPlan"];
export type FileReading = Schemas["FileReadingNow"];
export type Recipe = Schemas["Recipe"];
export type Extracts = Schemas["ExtractsReply"];
export type Tables = Schemas["TablesReply"];
export type FurtherTable = Schemas["FurtherTableView"];
export type RecordTable = Schemas["RecordTable"];
export type LoggedOutcome = RecordTable["outcomes"][number];
export type Covariate = RecordTable["covariates"][number];
export type CovariateForms = Schemas["CovariateForms"];
export type CovariateForm = Schemas["CovariateForm"];
export type CovariateField = Schemas["FieldForm"];
export type ExtractComparison = Schemas["ExtractComparison"];
export type Describe = Schemas["DescribeResult"];
export type StepForm = Schemas["StepForm"];
/** A place in the sentence of a step. */
export type Place = Schemas["Place"];
/** A step as it is sent: its kind, and the fields of that kind. */
export type StepBody = Schemas["NewStep"]["step"];

/** What every stage that analyses a cohort answers with; a page can be made of it alone. */
export type StageResult = Omit<Schemas["EstimateResult"], "cohort" | "curve">;
export type ReportResult = Schemas["ReportResult"];
export type ReportPiece = Schemas["PieceView"];
export type ReportTable = Schemas["TableView"];
export type ReportWords = Schemas["EditableTextView"];
export type ReportSentence = Schemas["SentenceView"];
export type ReportSource = Schemas["PieceSource"];
export type ReportPoint = Schemas["PointView"];
export type Caution = Schemas["Caution"];
export type Verdict = NonNullable<Schemas["Cell"]["verdict"]>;

export type Section = Schemas["Section"];
export type ContentBlock = Section["blocks"][number];
export type Cell = Schemas["Cell"];
export type CellTable = Schemas["Table"];
export type TimedTable = Schemas["TimedTable"];
export type ChosenTimes = Schemas["ChosenTimes"];
export type TimedCell = Schemas["TimedCell"];
export type Series = Schemas["Series"];
export type Action = Schemas["Action"];
export type Choices = Schemas["Choices"];
export type ChoiceItem = Schemas["ChoiceItem"];
export type ChoiceAct = Schemas["ChoiceAct"];
/** A part of a result, as a page shows it. */
export interface PartResult {
  sections: Section[];
}
export type WorkingsOf = Schemas["WorkingsOf"];
export type WorkingsPage = Schemas["WorkingsPage"];

export type Figure = Schemas["Figure"];
export type FigurePreset = Schemas["FigurePreset"];
export type Trial = Schemas["Trial"];
export type Track = Schemas["Track"];
export type ShownTrack = Schemas["ShownTrack-Output"];
export type FigureGroup = Schemas["FigureGroup"];
export type GroupStyle = Schemas["GroupStyle-Output"];
export type TimeLine = Schemas["TimeLine"];
export type Axis = Schemas["Axis"];
export type Tick = Schemas["Tick"];
/** What a track draws, distinguished by its kind. */
export type Mark = Track["marks"][number];
export type MarkOf<K extends Mark["kind"]> = Extract<Mark, { kind: K }>;
export type FigureTablePage = Schemas["FigureTablePage"];

/** A statement: the server states what can be put where, so its fields need not be known here. */
export type Statement = { stage: string; version: number } & Record<string, unknown>;

/** One of: a result, the work that will bring it, or what blocks it. */
export interface Reply<R> {
  result?: R | null;
  statement?: Statement | null;
  work?: Work | null;
  blocked?: Blocking[] | null;
}
export type PrintSettings = Schemas["PrintSettings-Output"];
export type FileForm = Schemas["PrintBody"]["form"];

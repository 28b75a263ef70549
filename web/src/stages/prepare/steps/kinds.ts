import type { ColumnReading, StepBody } from "../../../api/types";

export type Kind = StepBody["kind"];
/** A step being written: its fields, not all of them filled yet. */
export type Draft = { kind: Kind } & Record<string, unknown>;
type Of = ColumnReading["kind"];

/** A place in the sentence of a step. */
export type Field =
  | { at: "column"; field: string; label: string; of?: readonly Of[] }
  | { at: "columns"; field: string; label: string }
  | {
      at: "text" | "number" | "points" | "words";
      field: string;
      label: string;
      wide?: boolean;
      needed?: boolean;
    }
  | { at: "choice"; field: string; label: string; options: readonly (readonly [unknown, string])[] }
  | {
      at: "condition" | "levels" | "order" | "level" | "formula" | "pairs";
      field: string;
      label: string;
    };

export interface StepKind {
  kind: Kind;
  title: string;
  /** What it is for. */
  about: string;
  start: Draft;
  parts: (draft: Draft) => readonly (string | Field)[];
}

/** A name that may be left to the program, and one that may not. */
const INTO: Field = { at: "text", field: "into", label: "Name of the new column" };
const NAME: Field = { ...INTO, needed: true };
const column = (label: string, of?: readonly Of[], field = "column"): Field =>
  of ? { at: "column", field, label, of } : { at: "column", field, label };

const choice = (
  field: string,
  label: string,
  options: readonly (readonly [unknown, string])[],
): Field => ({ at: "choice", field, label, options });

/** Every step that can be written by hand, in the order it is offered. */
export const KINDS: readonly StepKind[] = [
  {
    kind: "set_aside_where",
    title: "Set rows aside, or keep them, by a condition",
    about: "rows that are left out stay in the file and in the ledger",
    start: {
      kind: "set_aside_where",
      keep: false,
      condition: { join: "and", clauses: [{ column: "", test: "is", values: [], missing: false }] },
    },
    parts: () => [
      choice("keep", "Which rows stay", [
        [false, "Set aside"],
        [true, "Keep only"],
      ]),
      " the rows where ",
      { at: "condition", field: "condition", label: "Condition" },
    ],
  },
  {
    kind: "set_aside_missing",
    title: "Set rows with missing values aside",
    about: "where any of the columns has nothing in it",
    start: { kind: "set_aside_missing", columns: [] },
    parts: () => ["Set aside rows without ", { at: "columns", field: "columns", label: "Columns" }],
  },
  {
    kind: "set_aside_repeats",
    title: "Remove duplicates by a key",
    about: "of rows with the same key, one stays",
    start: { kind: "set_aside_repeats", key: [], stays: "first" },
    parts: () => [
      "Of rows that share ",
      { at: "columns", field: "key", label: "Key columns" },
      " keep the ",
      choice("stays", "Which one stays", [
        ["first", "first"],
        ["last", "last"],
      ]),
    ],
  },
  {
    kind: "respell_levels",
    title: "Rename and merge levels",
    about: "levels given one name become one; a blank name makes them missing",
    start: { kind: "respell_levels", column: "", spelling: {}, into: "" },
    parts: () => [
      "In ",
      column("Column of text", ["text"]),
      " call the levels ",
      { at: "levels", field: "spelling", label: "New names" },
      " in ",
      { ...INTO, label: "New column (blank: the same)" },
    ],
  },
  {
    kind: "order_levels",
    title: "Order levels, choose the reference",
    about: "the order they are shown in, and the level that others are compared with",
    start: { kind: "order_levels", column: "", order: [], reference: "" },
    parts: () => [
      "Show the levels of ",
      column("Column of text", ["text"]),
      " in this order: ",
      { at: "order", field: "order", label: "Order" },
      " and compare with ",
      { at: "level", field: "reference", label: "Reference level" },
    ],
  },
  {
    kind: "label_column",
    title: "Give a column a label and a unit",
    about: "for tables and figures; the column keeps its name",
    start: { kind: "label_column", column: "", label: "", unit: "" },
    parts: () => [
      column("Column"),
      " is called ",
      { at: "text", field: "label", label: "Label", wide: true },
      ", in ",
      { at: "text", field: "unit", label: "Unit" },
    ],
  },
  {
    kind: "split_number",
    title: "Split a number into bands",
    about: "edges are shown with rows and events, never chosen by the p-value",
    start: { kind: "split_number", column: "", by: "points", points: [], bands: 4, into: "" },
    parts: (draft) => [
      "Split ",
      column("Column of numbers", ["number"]),
      " ",
      choice("by", "Where", [
        ["points", "at"],
        ["median", "at its median"],
        ["quantiles", "into bands of equal size, so many"],
      ]),
      ...(draft.by === "points"
        ? [" ", { at: "points", field: "points", label: "Points, such as 45, 65" } as const]
        : []),
      ...(draft.by === "quantiles"
        ? [" ", { at: "number", field: "bands", label: "Bands" } as const]
        : []),
      " as ",
      INTO,
    ],
  },
  {
    kind: "transform",
    title: "Rescale or transform a number",
    about: "per 10, logarithm, square root, distance from the mean",
    start: { kind: "transform", column: "", by: "per", per: 10, into: "" },
    parts: (draft) => [
      "Take ",
      column("Column of numbers", ["number"]),
      " ",
      choice("by", "How", [
        ["per", "per"],
        ["log", "as its natural logarithm"],
        ["square root", "as its square root"],
        ["centre", "as its distance from the mean"],
      ]),
      ...(draft.by === "per" ? [" ", { at: "number", field: "per", label: "Per" } as const] : []),
      " as ",
      INTO,
    ],
  },
  {
    kind: "time_between",
    title: "A number from two dates",
    about: "such as the age at the start",
    start: { kind: "time_between", start: "", end: "", unit: "years", into: "" },
    parts: () => [
      NAME,
      " is the time in ",
      choice(
        "unit",
        "Unit",
        ["hours", "days", "weeks", "months", "years"].map((u) => [u, u] as const),
      ),
      " from ",
      column("First date", ["date"], "start"),
      " to ",
      column("Second date", ["date"], "end"),
    ],
  },
  {
    kind: "new_column",
    title: "A new column by a formula",
    about: "arithmetic, comparisons, if … then … else, min and max, on columns",
    start: { kind: "new_column", name: "", formula: "" },
    parts: () => [
      { at: "text", field: "name", label: "Name of the new column" },
      " = ",
      { at: "formula", field: "formula", label: "Formula" },
    ],
  },
  {
    kind: "fill_missing",
    title: "Fill missing values",
    about: "filled cells make the data look surer than they are",
    start: { kind: "fill_missing", column: "", by: "value", value: "" },
    parts: (draft) => [
      "Where ",
      column("Column"),
      " is missing, write ",
      choice("by", "What", [
        ["value", "this value"],
        ["median", "the median"],
        ["most frequent", "the most frequent value"],
      ]),
      ...(draft.by === "value"
        ? [" ", { at: "text", field: "value", label: "Value" } as const]
        : []),
    ],
  },
  {
    kind: "mark_missing",
    title: "Take values for missing",
    about: "such as 99 or “not known”",
    start: { kind: "mark_missing", column: "", values: [] },
    parts: () => [
      "Take ",
      { at: "words", field: "values", label: "Values, set apart by commas" },
      " in ",
      column("Column"),
      " for missing",
    ],
  },
  {
    kind: "correct_cell",
    title: "Correct a single cell",
    about: "the file keeps what it had",
    start: { kind: "correct_cell", row: 1, column: "", value: "" },
    parts: () => [
      "In row ",
      { at: "number", field: "row", label: "Row" },
      ", ",
      column("Column"),
      " is ",
      { at: "text", field: "value", label: "Right value (blank: missing)" },
    ],
  },
  {
    kind: "read_as_numbers",
    title: "Read text as numbers",
    about: "cells that are no numbers become missing",
    start: { kind: "read_as_numbers", column: "", decimal: ".", thousands: "" },
    parts: () => [
      "Read ",
      column("Column of text", ["text"]),
      " as numbers, with ",
      choice("decimal", "Decimal mark", [
        [".", "a decimal point"],
        [",", "a decimal comma"],
      ]),
      " and ",
      choice("thousands", "Thousands mark", [
        ["", "no mark for thousands"],
        [",", "commas for thousands"],
        [".", "points for thousands"],
        [" ", "spaces for thousands"],
        ["'", "apostrophes for thousands"],
      ]),
    ],
  },
  {
    kind: "read_as_dates",
    title: "Read text or numbers as dates",
    about: "in the order you state; cells that are no dates become missing",
    start: { kind: "read_as_dates", column: "", order: "day first", century_from: 1931, zone: "" },
    parts: () => [
      "Read ",
      column("Column", ["text", "number"]),
      " as dates, ",
      choice("order", "Order", [
        ["day first", "the day first"],
        ["month first", "the month first"],
        ["year month day", "eight digits, year month day"],
        ["spreadsheet days", "days since 1900, as spreadsheets count"],
      ]),
      "; two-digit years begin at ",
      { at: "number", field: "century_from", label: "First year" },
      "; times without a zone are at ",
      { at: "text", field: "zone", label: "Offset, such as +02:00, or “as written”" },
    ],
  },
  {
    kind: "read_as_text",
    title: "Take numbers for names of levels",
    about: "such as centre 1, 2, 3",
    start: { kind: "read_as_text", column: "" },
    parts: () => ["Take ", column("Column of numbers", ["number"]), " for a category"],
  },
  {
    kind: "spread_tallies",
    title: "Spread tallies at each time into rows",
    about: "so many events, so many censored, at each time",
    start: {
      kind: "spread_tallies",
      tallies: {},
      time: "",
      at_risk: "",
      counted: "before",
      within: [],
    },
    parts: () => [
      "Tallies: ",
      { at: "pairs", field: "tallies", label: "End" },
      " at each ",
      column("Column of times", ["number"], "time"),
      ", with those at risk in ",
      column("Numbers at risk (blank: you are asked)", ["number"], "at_risk"),
      " counted ",
      choice("counted", "When they are counted", [
        ["before", "before the ends"],
        ["after", "after the ends"],
      ]),
      ", apart for each ",
      { at: "columns", field: "within", label: "Columns that set tallies apart" },
    ],
  },
  {
    kind: "stack_groups",
    title: "Stack a status column for each group",
    about: "one time column, a status column for each group",
    start: { kind: "stack_groups", groups: {} },
    parts: () => ["Status columns: ", { at: "pairs", field: "groups", label: "Group" }],
  },
  {
    kind: "first_by_subject",
    title: "The first date of each subject",
    about: "beside every row of the subject, as a start of the clock",
    start: { kind: "first_by_subject", subject: "", column: "", into: "" },
    parts: () => [
      NAME,
      " is the first ",
      column("Date", ["date"]),
      " of each ",
      column("Subject", undefined, "subject"),
    ],
  },
  {
    kind: "gather_happenings",
    title: "Gather a log of happenings",
    about: "one row for each subject, with the first date of each kind",
    start: { kind: "gather_happenings", subject: "", date: "", happening: "" },
    parts: () => [
      "Gather ",
      column("What happened", ["text"], "happening"),
      " by ",
      column("Subject", undefined, "subject"),
      ", each with its first ",
      column("Date", ["date"], "date"),
    ],
  },
];

/** Whether a step of this kind can be written by hand. */
export function kindOf(kind: string): StepKind | undefined {
  return KINDS.find((k) => k.kind === kind);
}

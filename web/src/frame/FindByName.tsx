import Dialog from "@mui/material/Dialog";
import TextField from "@mui/material/TextField";
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useId, useState } from "react";
import { useNavigate } from "react-router";
import { useStudy } from "../api/queries";
import type { PrepareResult, ReportResult, Sentence, StudyOverview } from "../api/types";
import "./FindByName.css";

/** Something that can be gone to: where it belongs, what it is called, and the way there. */
interface Target {
  group: string;
  name: string;
  to?: { path: string; state?: Record<string, unknown> };
  href?: string;
  act?: () => void;
}

const MAX_FOUND = 12;

/** A list that finds any stage, slot, step, export or act by its name. */
export function FindByName({
  study,
  acts,
  onClose,
}: {
  study: string;
  acts: readonly { name: string; act: () => void }[];
  onClose: () => void;
}) {
  const overview = useStudy(study).data;
  const client = useQueryClient();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const listed = useId();
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const targets = [
    ...targetsOf(client, study, overview),
    ...acts.map(({ name, act }): Target => ({ group: "Do", name, act })),
  ];
  const all = targets.filter((target) => {
    const held = `${target.group} ${target.name}`.toLowerCase();
    return words.every((word) => held.includes(word));
  });
  const shown = all.slice(0, MAX_FOUND);
  const chosen = Math.min(at, shown.length - 1);
  const go = (target: Target | undefined) => {
    if (!target) return;
    onClose();
    if (target.to) navigate(target.to.path, { state: target.to.state });
    if (target.href) window.location.assign(target.href);
    target.act?.();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const by = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (by) {
      event.preventDefault();
      setAt((chosen + by + shown.length) % Math.max(shown.length, 1));
    }
    if (event.key === "Enter") go(shown[chosen]);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth="sm"
      fullWidth
      slotProps={{ paper: { "aria-label": "Find by name" } }}
    >
      <div className="find">
        <TextField
          label="Find a stage, view, slot, step, export or act by its name"
          value={text}
          autoFocus
          fullWidth
          onChange={(event) => {
            setText(event.target.value);
            setAt(0);
          }}
          onKeyDown={onKeyDown}
          slotProps={{
            htmlInput: {
              role: "combobox",
              "aria-expanded": shown.length > 0,
              "aria-controls": listed,
              "aria-activedescendant": shown.length ? `${listed}-${chosen}` : undefined,
            },
          }}
        />
        <div role="listbox" id={listed} aria-label="What was found">
          {shown.map((target, k) => (
            <div
              key={`${target.group} ${target.name} ${k}`}
              id={`${listed}-${k}`}
              role="option"
              tabIndex={-1}
              aria-selected={k === chosen}
              onPointerMove={() => setAt(k)}
              onClick={() => go(target)}
              onKeyDown={onKeyDown}
            >
              <span>{target.name}</span>
              <span className="quiet">{target.group}</span>
            </div>
          ))}
        </div>
        <p className="quiet" role="status">
          {all.length === 0
            ? "Nothing is called so."
            : all.length > shown.length
              ? `and ${all.length - shown.length} more`
              : ""}
        </p>
      </div>
    </Dialog>
  );
}

const FILES = [
  ["report.html", "The report (HTML)"],
  ["report.pdf", "The report (PDF)"],
  ["report.docx", "The report (DOCX)"],
  ["report.md", "The report (Markdown)"],
  ["report.xlsx", "The tables of the report (spreadsheet)"],
  ["prepared.csv", "Prepared table (CSV)"],
  ["prepared.parquet", "Prepared table (Parquet)"],
  ["codebook.csv", "Codebook"],
  ["steps.json", "Steps as a document"],
  ["plan.json", "The plan of the study"],
  ["ledger.svg", "Rows read, set aside and analysed, as a figure"],
] as const;

function targetsOf(
  client: QueryClient,
  study: string,
  overview: StudyOverview | undefined,
): Target[] {
  const known = <T,>(stage: string) => client.getQueryData<T>(["study", study, "stage", stage]);
  const path = (stage: string) => `/studies/${study}/${stage}`;
  const prepared = known<{ reply: { result?: PrepareResult } }>("prepare")?.reply.result;
  const report = known<{ result?: ReportResult }>("report")?.result;
  const found: Target[] = [];
  for (const { stage, title, analyses } of overview?.stages ?? []) {
    found.push({ group: "Stage", name: title, to: { path: path(stage) } });
    for (const [k, view] of (analyses.length > 1 && stage !== "report" ? analyses : []).entries())
      found.push({
        group: title,
        name: `View ${view.letter}: ${view.title}`,
        to: { path: k ? `${path(stage)}?view=${view.letter}` : path(stage) },
      });
    const sentence =
      stage === "prepare"
        ? prepared?.sentence
        : known<{ result?: { sentence?: Sentence } }>(stage)?.result?.sentence;
    for (const { slot } of sentence?.parts ?? [])
      if (slot)
        found.push({
          group: title,
          name: slot.state === "add" ? slot.label : `${slot.title}: ${slot.label}`,
          to: { path: path(stage), state: { slot: slot.id } },
        });
  }
  for (const [k, step] of (prepared?.steps ?? []).entries())
    found.push({
      group: "Step",
      name: `${k + 1} ${step.name}`,
      to: { path: path("prepare"), state: { step: step.id } },
    });
  if (overview?.file)
    for (const [file, name] of FILES)
      found.push({ group: "Save", name, href: `/api/studies/${study}/${file}` });
  for (const { key, title } of report?.tables ?? [])
    found.push({
      group: "Save",
      name: `${title} (CSV)`,
      href: `/api/studies/${study}/tables/${key}.csv`,
    });
  return found;
}

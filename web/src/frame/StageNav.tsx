import Button from "@mui/material/Button";
import type { ReactNode } from "react";
import { NavLink, useNavigate } from "react-router";
import { useStudy } from "../api/queries";
import type { StageLine, StudyOverview } from "../api/types";
import { Shape } from "../readings/Readings";
import { useRoving } from "../statement/useRoving";
import { StudyMenu } from "./StudyMenu";
import { UndoRedo } from "./UndoRedo";
import "./StageNav.css";

const MARKS: Record<string, { shape: ReactNode; words: string }> = {
  "in doubt": { shape: <Shape verdict="in doubt" />, words: "in doubt" },
  "out of date": { shape: "↻", words: "out of date: an earlier stage has changed" },
};

/** The dark stage list: stages in working order, each with its live line. */
export function StageNav({
  study,
  pathOf,
  onDecisions,
  onKeys,
  onTheme,
  onFind,
}: {
  study: string;
  /** The address of a stage. */
  pathOf: (stage: string) => string;
  onDecisions: () => void;
  onKeys: () => void;
  onTheme: () => void;
  onFind: () => void;
}) {
  const roving = useRoving<HTMLElement>("a");
  const overview = useStudy(study).data;
  return (
    <section className="stage-nav" aria-label="Study">
      <StageNavHead study={study} overview={overview} />
      <nav aria-label="Stages" {...roving}>
        {overview?.stages.map((line) => (
          <NavLink key={line.stage} to={pathOf(line.stage)} className="stage-nav-stage">
            <span className="stage-nav-name">{line.title}</span>
            <span className="stage-nav-line">{line.line}</span>
            <Mark line={line} />
          </NavLink>
        ))}
      </nav>
      <div className="stage-nav-foot">
        <UndoRedo study={study} />
        <Button onClick={onDecisions}>Decisions log · {entries(overview)}</Button>
        <div>
          <Button onClick={onFind} title="Find by name (/)">
            Find
          </Button>
          <Button onClick={onTheme}>Theme</Button>
          <Button onClick={onKeys} aria-label="Keys">
            ?
          </Button>
        </div>
      </div>
    </section>
  );
}

/** What leads to all studies, and what this one is called. */
function StageNavHead({ study, overview }: { study: string; overview: StudyOverview | undefined }) {
  const navigate = useNavigate();
  return (
    <div className="stage-nav-head">
      <NavLink to="/" className="brand" aria-label="Olden Hourglass: all studies">
        <Hourglass /> Olden Hourglass
      </NavLink>
      <div className="stage-nav-named">
        <span className="stage-nav-study" title={overview?.name}>
          {overview?.name ?? ""}
        </span>
        {overview ? (
          <StudyMenu
            study={study}
            name={overview.name}
            label="More for the study"
            onDeleted={() => navigate("/")}
          />
        ) : null}
      </div>
    </div>
  );
}

function entries(overview: StudyOverview | undefined): string {
  const n = overview?.decisions ?? 0;
  return n === 1 ? "1 entry" : `${n} entries`;
}

function Mark({ line }: { line: StageLine }) {
  const mark =
    MARKS[line.mark] ?? (line.mark ? { shape: <Shape verdict="holds" />, words: line.mark } : null);
  if (!mark) return null;
  return (
    <span className="stage-nav-mark" title={mark.words} role="img" aria-label={mark.words}>
      {mark.shape}
    </span>
  );
}

export function Hourglass() {
  return (
    <svg width="14" height="18" viewBox="0 0 14 18" aria-hidden="true" className="hourglass">
      <path d="M1 1h12M1 17h12M2 1c0 5 5 6 5 8s-5 3-5 8M12 1c0 5-5 6-5 8s5 3 5 8" />
    </svg>
  );
}

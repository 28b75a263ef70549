import { type ReactNode, useEffect, useRef, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { useFreshRevision, useStudy } from "../api/queries";
import { useViews } from "../api/view";
import { ChangedMeanwhile } from "./ChangedMeanwhile";
import { DecisionsLog } from "./DecisionsLog";
import { FindByName } from "./FindByName";
import { KeysHelp } from "./KeysHelp";
import { Messages } from "./Messages";
import { StageNav } from "./StageNav";
import { useBeginView } from "./useBeginView";
import { useKeptFocus } from "./useKeptFocus";
import { useStagePath } from "./useStagePath";
import "./StudyFrame.css";

/** A study: the stage list at the left, the open stage beside it. */
export function StudyFrame({
  onTheme,
  stage,
}: {
  onTheme: () => void;
  stage: (study: string, stage: string) => ReactNode;
}) {
  const { study = "", stage: open = "prepare" } = useParams();
  const overview = useStudy(study);
  useFreshRevision(study, overview.data?.revision);
  const navigate = useNavigate();
  const pathOf = useStagePath(study, open);
  const stages = overview.data?.stages;
  const known = stages?.find((line) => line.stage === open);
  const [log, setLog] = useState(false);
  const [keys, setKeys] = useState(false);
  const [find, setFind] = useState(false);
  useKeptFocus();
  const views = useViews(study, known?.several_views ? open : "");
  const begin = useBeginView(study, open, views.open);
  const acts = [
    ...(views.lines.length
      ? [{ name: `New view of ${known?.title}`, act: () => begin(views.shown?.id ?? null) }]
      : []),
    { name: "Open the decisions log", act: () => setLog(true) },
    { name: "Show the keys", act: () => setKeys(true) },
    { name: "Change the theme", act: onTheme },
    { name: "All studies", act: () => navigate("/") },
  ];
  useKeys((key) => {
    if (key === "?") setKeys(true);
    if (key === "/") setFind(true);
    const step = key === "]" ? 1 : key === "[" ? -1 : 0;
    const next = step && views.shown ? views.lines[views.lines.indexOf(views.shown) + step] : null;
    if (next) views.open(next.letter);
    const to = stages?.[Number(key) - 1];
    if (to) navigate(pathOf(to.stage));
  });
  useTitle(overview.data?.name, known?.title ?? open);
  return (
    <div className="frame">
      <SkipLinks />
      <StageNav
        study={study}
        pathOf={pathOf}
        onDecisions={() => setLog(true)}
        onKeys={() => setKeys(true)}
        onFind={() => setFind(true)}
        onTheme={onTheme}
      />
      {overview.error && !overview.data ? (
        <main className="notice" id="main">
          <h1>This study cannot be opened</h1>
          <p role="alert">{overview.error.message}</p>
        </main>
      ) : stages && !known ? (
        <Navigate to={`/studies/${study}/prepare`} replace />
      ) : (
        stage(study, open)
      )}
      <ChangedMeanwhile />
      <Messages />
      {log ? <DecisionsLog study={study} onClose={() => setLog(false)} /> : null}
      {find ? <FindByName study={study} onClose={() => setFind(false)} acts={acts} /> : null}
      {keys ? <KeysHelp onClose={() => setKeys(false)} /> : null}
    </div>
  );
}

function SkipLinks() {
  return [
    ["#statement", "To the sentence"],
    ["#main", "To the figure"],
    ["#readings", "To the readings"],
  ].map(([to, words]) => (
    <a key={to} href={to} className="skip">
      {words}
    </a>
  ));
}

/** Calls back with every key that is pressed by itself, outside of text fields and dialogs. */
function useKeys(onKey: (key: string) => void) {
  const latest = useRef(onKey);
  latest.current = onKey;
  useEffect(() => {
    const act = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest("input, textarea, [role=dialog]");
      if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "/") event.preventDefault();
      latest.current(event.key);
    };
    window.addEventListener("keydown", act);
    return () => window.removeEventListener("keydown", act);
  }, []);
}

/** What the window is called. */
function useTitle(name: string | undefined, stage: string) {
  useEffect(() => {
    document.title = name ? `${name} · ${stage} · Olden Hourglass` : "Olden Hourglass";
  }, [name, stage]);
}

import { type ReactNode, useEffect, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { useFreshRevision, useStudy } from "../api/queries";
import { ChangedMeanwhile } from "./ChangedMeanwhile";
import { DecisionsLog } from "./DecisionsLog";
import { FindByName } from "./FindByName";
import { KeysHelp } from "./KeysHelp";
import { Messages } from "./Messages";
import { Spine } from "./Spine";
import { useKeptFocus } from "./useKeptFocus";
import "./StudyFrame.css";

/** A study: the spine at the left, the open stage beside it. */
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
  const stages = overview.data?.stages;
  const known = stages?.find((line) => line.stage === open);
  const [log, setLog] = useState(false);
  const [keys, setKeys] = useState(false);
  const [find, setFind] = useState(false);
  useKeptFocus();
  useEffect(() => {
    const act = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest("input, textarea, [role=dialog]");
      if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "?") setKeys(true);
      if (event.key === "/") {
        event.preventDefault();
        setFind(true);
      }
      const to = stages?.[Number(event.key) - 1];
      if (to) navigate(`/studies/${study}/${to.stage}`);
    };
    window.addEventListener("keydown", act);
    return () => window.removeEventListener("keydown", act);
  }, [navigate, study, stages]);
  useEffect(() => {
    const name = overview.data?.name;
    document.title = name
      ? `${name} · ${known?.title ?? open} · Olden Hourglass`
      : "Olden Hourglass";
  }, [overview.data?.name, known, open]);
  return (
    <div className="frame">
      <a href="#statement" className="skip">
        To the sentence
      </a>
      <a href="#main" className="skip">
        To the figure
      </a>
      <a href="#readings" className="skip">
        To the readings
      </a>
      <Spine
        study={study}
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
      {find ? (
        <FindByName
          study={study}
          onClose={() => setFind(false)}
          acts={[
            { name: "Open the decisions log", act: () => setLog(true) },
            { name: "Show the keys", act: () => setKeys(true) },
            { name: "Change the theme", act: onTheme },
            { name: "All studies", act: () => navigate("/") },
          ]}
        />
      ) : null}
      {keys ? <KeysHelp onClose={() => setKeys(false)} /> : null}
    </div>
  );
}

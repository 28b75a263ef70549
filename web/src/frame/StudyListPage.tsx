import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { useStudies } from "../api/queries";
import type { StudyList } from "../api/types";
import { grouped } from "../numbers/format";
import { SmallCurve } from "../tracks/SmallCurve";
import { Messages } from "./Messages";
import { Refused } from "./ReasonField";
import { Hourglass } from "./StageNav";
import { StudyMenu } from "./StudyMenu";
import { useBeginning } from "./useBeginning";
import "./StudyListPage.css";

type Item = StudyList["studies"][number];
/** From so many studies on they can be searched. */
const SEARCHED = 5;

/** All studies, and ways to begin one. */
export function StudyListPage({ onTheme }: { onTheme: () => void }) {
  const list = useStudies();
  const beginning = useBeginning();
  const [search, setSearch] = useState("");
  useEffect(() => {
    document.title = "Olden Hourglass";
  }, []);
  const studies = list.data?.studies ?? [];
  const wanted = search.trim().toLowerCase();
  const found = studies.filter((s) =>
    `${s.name} ${s.file_name ?? ""}`.toLowerCase().includes(wanted),
  );
  return (
    <main className="list-page" id="main">
      <header>
        <h1>
          <Hourglass /> Olden Hourglass
        </h1>
        <Button onClick={onTheme}>Theme</Button>
      </header>
      <Refused error={list.error ?? beginning.error} />
      <section aria-labelledby="new-title" className="begin">
        <h2 id="new-title">A new study</h2>
        <NewStudy beginning={beginning} />
      </section>
      <section aria-labelledby="studies-title">
        <div className="studies-head">
          <h2 id="studies-title">Studies</h2>
          {studies.length >= SEARCHED ? (
            <TextField
              label="Search by name or file"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
              type="search"
            />
          ) : null}
        </div>
        <ul className="studies">
          {found.map((s) => (
            <Study key={s.id} study={s} />
          ))}
        </ul>
        {list.data && studies.length === 0 ? <p className="quiet">There is no study yet.</p> : null}
        {studies.length && !found.length ? (
          <p className="quiet">No study is called so, nor its file.</p>
        ) : null}
      </section>
      <Demos demos={list.data?.demos ?? []} beginning={beginning} />
      <Messages />
    </main>
  );
}

interface DemosProps {
  demos: StudyList["demos"];
  beginning: ReturnType<typeof useBeginning>;
}

function Demos({ demos, beginning }: DemosProps) {
  return (
    <section aria-labelledby="demo-title">
      <h2 id="demo-title">Demos</h2>
      <ul className="demos">
        {demos.map((demo) => (
          <li key={demo.key}>
            <Button
              variant="outlined"
              disabled={beginning.creating}
              onClick={() => void beginning.begin({ demo: demo.key })}
            >
              {demo.name}
            </Button>
            <span className="quiet">{demo.about}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Study({ study }: { study: Item }) {
  const opened = study.results.filter((one) => one.stage !== "check");
  return (
    <li>
      <div className="study-name">
        <Link to={`/studies/${study.id}/prepare`}>{study.name}</Link>
        <span className="quiet">
          {study.rows === null ? "no file yet" : `${study.file_name}, ${grouped(study.rows)} rows`}
        </span>
      </div>
      <div className="study-summary">
        {opened.map((one) => (
          <span key={one.stage} className={one.current ? "" : "quiet"}>
            {one.title}: {one.headline}
            {one.current ? "" : ", before the last change"}
          </span>
        ))}
      </div>
      {study.thumbnail ? <SmallCurve thumbnail={study.thumbnail} /> : <span />}
      <StudyMenu study={study.id} name={study.name} label="More for the study" />
    </li>
  );
}

function NewStudy({ beginning }: { beginning: ReturnType<typeof useBeginning> }) {
  const [name, setName] = useState("");
  const input = useRef<HTMLInputElement>(null);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) void beginning.begin({ name: name.trim() });
  };
  return (
    <>
      <p>
        Drop a file anywhere on this page, paste rows into it, or choose a file. The study is called
        after the file; it can be renamed.
      </p>
      <p>
        <Button variant="contained" onClick={() => input.current?.click()}>
          Choose a file
        </Button>
      </p>
      <p className="quiet">Or give it a name first:</p>
      <input
        ref={input}
        type="file"
        className="sr"
        tabIndex={-1}
        aria-label="File of a new study"
        onChange={(event) => {
          void beginning.withFile(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {beginning.busy ? <p role="status">{beginning.busy}</p> : null}
      {beginning.refusal ? (
        <p className="refusal" role="alert">
          {beginning.refusal}
        </p>
      ) : null}
      <form onSubmit={submit} className="new-study">
        <TextField
          label="Name of the study"
          value={name}
          onChange={(event) => setName(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 200 } }}
          fullWidth
        />
        <Button type="submit" variant="outlined" disabled={!name.trim() || beginning.creating}>
          Begin
        </Button>
      </form>
    </>
  );
}

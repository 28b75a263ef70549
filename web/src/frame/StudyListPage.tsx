import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogContentText from "@mui/material/DialogContentText";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { type FormEvent, useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useCreateStudy, useDeleteStudy } from "../api/changes";
import { useStudies } from "../api/queries";
import { grouped } from "../numbers/format";
import { Refused } from "./ReasonField";
import { Hourglass } from "./Spine";
import "./StudyListPage.css";

/** All studies, and ways to begin one. */
export function StudyListPage({ onTheme }: { onTheme: () => void }) {
  const list = useStudies();
  const create = useCreateStudy();
  const remove = useDeleteStudy();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [doomed, setDoomed] = useState<{ id: string; name: string } | null>(null);
  useEffect(() => {
    document.title = "Olden Hourglass";
  }, []);
  const begin = async (body: { name?: string; demo?: string }) => {
    const { id } = await create.mutateAsync(body);
    navigate(`/studies/${id}/prepare`);
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) void begin({ name: name.trim() });
  };
  const error = list.error ?? create.error ?? remove.error;
  return (
    <main className="list-page" id="main">
      <header>
        <h1>
          <Hourglass /> Olden Hourglass
        </h1>
        <Button onClick={onTheme}>Theme</Button>
      </header>
      <Refused error={error} />
      <section aria-labelledby="studies-title">
        <h2 id="studies-title">Studies</h2>
        <ul className="studies">
          {list.data?.studies.map((s) => (
            <li key={s.id}>
              <Link to={`/studies/${s.id}/prepare`}>{s.name}</Link>
              <span className="quiet">
                {s.rows === null ? "no file yet" : `${s.file_name}, ${grouped(s.rows)} rows`}
              </span>
              <Button
                onClick={() => setDoomed({ id: s.id, name: s.name })}
                aria-label={`Delete ${s.name}`}
              >
                Delete
              </Button>
            </li>
          ))}
        </ul>
        {list.data?.studies.length === 0 ? <p className="quiet">There is no study yet.</p> : null}
      </section>
      <section aria-labelledby="new-title">
        <h2 id="new-title">A new study</h2>
        <form onSubmit={submit} className="new-study">
          <TextField
            label="Name of the study"
            value={name}
            onChange={(event) => setName(event.target.value)}
            slotProps={{ htmlInput: { maxLength: 200 } }}
            fullWidth
          />
          <Button type="submit" variant="contained" disabled={!name.trim() || create.isPending}>
            Begin
          </Button>
        </form>
        <h3>Or from a demo</h3>
        <ul className="demos">
          {list.data?.demos.map((demo) => (
            <li key={demo.key}>
              <Button
                variant="outlined"
                disabled={create.isPending}
                onClick={() => void begin({ demo: demo.key })}
              >
                {demo.name}
              </Button>
              <span className="quiet">{demo.about}</span>
            </li>
          ))}
        </ul>
      </section>
      {doomed ? (
        <Dialog open onClose={() => setDoomed(null)} aria-labelledby="delete-title">
          <DialogTitle id="delete-title">Delete “{doomed.name}”?</DialogTitle>
          <DialogContent>
            <DialogContentText>
              Its statements, decisions and results are deleted with it. This cannot be undone.
            </DialogContentText>
          </DialogContent>
          <DialogActions>
            <Button onClick={() => setDoomed(null)} autoFocus>
              Keep it
            </Button>
            <Button
              onClick={() => {
                remove.mutate(doomed.id);
                setDoomed(null);
              }}
            >
              Delete
            </Button>
          </DialogActions>
        </Dialog>
      ) : null}
    </main>
  );
}

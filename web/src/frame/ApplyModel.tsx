import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { useAppliedModel, useStage, useStudies } from "../api/queries";
import type { ContentBlock, StageResult } from "../api/types";
import "./ApplyModel.css";
import { Refused } from "./ReasonField";
import { Working } from "./StagePage";
import { TableBlock } from "./sections/TableBlock";

interface Kept {
  kept?: { letter: string; note: string }[];
}

/** Applies a model of this study to the rows of another one. */
export function ApplyModel({ study, onClose }: { study: string; onClose: () => void }) {
  const others = (useStudies().data?.studies ?? []).filter((s) => s.id !== study && s.file_name);
  const kept = (useStage<StageResult>(study, "model").data?.statement as Kept | undefined)?.kept;
  const [to, setTo] = useState("");
  const [letter, setLetter] = useState("");
  const [written, setWritten] = useState("");
  const [time, setTime] = useState<number | null>(null);
  const takeTime = () => setTime(Number(written) > 0 ? Number(written) : null);
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="apply-model-title">
      <DialogTitle id="apply-model-title">Apply the model to another study</DialogTitle>
      <DialogContent>
        <p>
          The model stays as it was fitted here; the other study’s rows are those that its Prepare
          has formed.
        </p>
        <div className="apply-model-asks">
          <TextField
            select
            label="Study"
            value={to}
            onChange={(event) => setTo(event.target.value)}
            sx={{ minWidth: 260 }}
          >
            {others.map((one) => (
              <MenuItem key={one.id} value={one.id}>
                {one.name}
              </MenuItem>
            ))}
          </TextField>
          <WhichModel kept={kept ?? []} letter={letter} onLetter={setLetter} />
          <TextField
            label="Survival at"
            value={written}
            onChange={(event) => setWritten(event.target.value)}
            onBlur={takeTime}
            onKeyDown={(event) => event.key === "Enter" && takeTime()}
            sx={{ width: 120 }}
          />
        </div>
        {others.length ? null : (
          <p className="quiet">There is no other study with a file. Begin one, or import one.</p>
        )}
        {to ? <Summary study={study} to={to} letter={letter} time={time} /> : null}
      </DialogContent>
      <DialogActions>
        {to ? (
          <Button component="a" href={saved(study, to, letter, time)} download>
            Save the predictions (CSV)
          </Button>
        ) : null}
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

interface WhichModelProps {
  kept: NonNullable<Kept["kept"]>;
  letter: string;
  onLetter: (letter: string) => void;
}

/** The model that is shown, or one of the kept ones. */
function WhichModel({ kept, letter, onLetter }: WhichModelProps) {
  return (
    <TextField
      select
      label="Model"
      value={letter}
      onChange={(event) => onLetter(event.target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      sx={{ minWidth: 160 }}
    >
      <MenuItem value="">the one shown</MenuItem>
      {kept.map((one) => (
        <MenuItem key={one.letter} value={one.letter}>
          {one.letter} {one.note}
        </MenuItem>
      ))}
    </TextField>
  );
}

function saved(study: string, to: string, letter: string, time: number | null): string {
  const requested = new URLSearchParams({ to, letter });
  if (time !== null) requested.set("time", String(time));
  return `/api/studies/${study}/applied-model.csv?${requested}`;
}

function Summary({
  study,
  to,
  letter,
  time,
}: {
  study: string;
  to: string;
  letter: string;
  time: number | null;
}) {
  const { data, error } = useAppliedModel(study, to, letter, time);
  if (error) return <Refused error={error} />;
  if (data?.work) return <Working work={data.work} />;
  const applied = data?.applied;
  if (!applied) return <p className="quiet">Applying the model …</p>;
  const { result, svg } = applied;
  if (result.blank) return <p role="status">{result.blank}</p>;
  return (
    <>
      <h3>{result.model}</h3>
      <div className="apply-model-summary">
        {svg ? (
          <img
            className="apply-model-figure"
            alt="Predicted and observed survival, by deciles"
            src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`}
          />
        ) : null}
        <div>
          {result.sections.map((section) => (
            <section key={section.id} aria-label={section.title}>
              <h4>{section.title}</h4>
              {section.blocks.map((block, k) => (
                <OneBlock key={k} block={block} />
              ))}
            </section>
          ))}
        </div>
      </div>
    </>
  );
}

function OneBlock({ block }: { block: ContentBlock }) {
  if (block.kind === "table") return <TableBlock stage="model" table={block} />;
  if (block.kind === "words") return <p className="quiet">{block.text}</p>;
  return null;
}

import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type DragEvent, useState } from "react";
import { usePlanInPlace } from "../../api/queries";
import { SendFile } from "./SendFile";
import { useSending } from "./useSending";
import "./Upload.css";

/** Choosing, dropping or pasting the study's data, with progress, and with a way to stop. */
export function Upload({
  study,
  instead,
  onTaken,
}: {
  study: string;
  /** The file that this one takes the place of. */
  instead?: string;
  onTaken?: () => void;
}) {
  const sending = useSending(study, "file", onTaken);
  const place = usePlanInPlace(study).data;
  const [over, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void sending.send(event.dataTransfer.files[0]);
  };
  return (
    <section
      className={over ? "upload over" : "upload"}
      aria-label="Choose the file"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <h2>{instead ? `Another file in place of ${instead}` : "Give the study its file"}</h2>
      <p>
        Drop it here, choose it, or paste its rows: delimited text (CSV, TSV), a spreadsheet (OOXML,
        OpenDocument), Parquet, JSON records or Dataset-JSON, up to {sending.limitInMb} MB. The file
        is kept as it is; what you decide about it is kept beside it.
      </p>
      {place?.applied ? (
        <p role="status">
          The plan “{place.applied}” is in place
          {place.sealed_at ? `, sealed on ${place.sealed_at.slice(0, 10)}` : ""}. The file is read,
          prepared and analysed as it states.
        </p>
      ) : null}
      <SendFile sending={sending} words="Choose a file" />
      {sending.progress === null ? <Paste onFile={(file) => void sending.send(file)} /> : null}
    </section>
  );
}

/** Rows that are pasted, as a file. */
function Paste({ onFile }: { onFile: (file: File) => void }) {
  const [pasted, setPasted] = useState("");
  return (
    <div className="paste">
      <TextField
        label="Or paste rows, the first with the names"
        value={pasted}
        multiline
        minRows={3}
        maxRows={10}
        fullWidth
        onChange={(event) => setPasted(event.target.value)}
      />
      <Button
        variant="outlined"
        disabled={!pasted.trim()}
        onClick={() => onFile(new File([pasted], "pasted.txt"))}
      >
        Read what was pasted
      </Button>
    </div>
  );
}

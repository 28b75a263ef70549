import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";
import { sendFile } from "../../api/client";
import { useHealth } from "../../api/queries";

const MB = 1024 * 1024;

/** Choosing or dropping the study's file, with progress, and with a way to stop. */
export function Upload({ study }: { study: string }) {
  const client = useQueryClient();
  const limit = useHealth().data?.upload_limit ?? 200 * MB;
  const input = useRef<HTMLInputElement>(null);
  const [progress, setProgress] = useState<number | null>(null);
  const [refusal, setRefusal] = useState("");
  const [over, setOver] = useState(false);
  const stop = useRef<AbortController | null>(null);

  const send = async (file: File | undefined) => {
    if (!file) return;
    setRefusal("");
    if (file.size > limit) {
      setRefusal(
        `${file.name} has ${Math.round(file.size / MB)} MB; at most ${Math.round(limit / MB)} MB can be uploaded. Leave out columns you do not need.`,
      );
      return;
    }
    stop.current = new AbortController();
    setProgress(0);
    try {
      await sendFile(study, file, setProgress, stop.current.signal);
      await client.invalidateQueries();
    } catch (error) {
      setRefusal(error instanceof Error ? error.message : String(error));
    } finally {
      setProgress(null);
      if (input.current) input.current.value = "";
    }
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void send(event.dataTransfer.files[0]);
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
      <h2>Give the study its file</h2>
      <p>
        Drop it here, or choose it: delimited text (CSV) with a header row, in UTF-8 or
        Windows-1252, up to {Math.round(limit / MB)} MB. The file is kept as it is; what you decide
        about it is kept beside it.
      </p>
      <input
        ref={input}
        type="file"
        accept=".csv,.tsv,.txt,text/csv,text/plain"
        className="sr"
        tabIndex={-1}
        aria-label="File"
        onChange={(event) => void send(event.target.files?.[0])}
      />
      {progress === null ? (
        <Button variant="contained" onClick={() => input.current?.click()}>
          Choose a file
        </Button>
      ) : (
        <div role="status">
          <p>{progress < 1 ? `Sending, ${Math.round(100 * progress)}%` : "Reading the rows …"}</p>
          <LinearProgress
            variant={progress < 1 ? "determinate" : "indeterminate"}
            value={100 * progress}
            aria-label="Progress"
          />
          <Button onClick={() => stop.current?.abort()}>Cancel</Button>
        </div>
      )}
      {refusal ? (
        <p className="refusal" role="alert">
          {refusal}
        </p>
      ) : null}
    </section>
  );
}

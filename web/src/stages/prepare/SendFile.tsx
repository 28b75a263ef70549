import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useRef } from "react";
import type { useSending } from "./useSending";

const KINDS =
  ".csv,.tsv,.txt,.xlsx,.xlsm,.ods,.parquet,.json,.ndjson,.jsonl,text/csv,text/plain,application/json";

/** A button to choose a file, or how far sending it has got. */
export function SendFile({
  sending,
  words,
}: {
  sending: ReturnType<typeof useSending>;
  words: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  const { progress } = sending;
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={KINDS}
        className="sr"
        tabIndex={-1}
        aria-label="File"
        onChange={(event) => {
          void sending.send(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {progress === null ? (
        <Button variant="contained" onClick={() => input.current?.click()}>
          {words}
        </Button>
      ) : (
        <div role="status">
          <p>{progress < 1 ? `Sending, ${Math.round(100 * progress)}%` : "Reading the rows …"}</p>
          <LinearProgress
            variant={progress < 1 ? "determinate" : "indeterminate"}
            value={100 * progress}
            aria-label="Progress"
          />
          <Button onClick={sending.cancel}>Cancel</Button>
        </div>
      )}
      {sending.refusal ? (
        <p className="refusal" role="alert">
          {sending.refusal}
        </p>
      ) : null}
    </>
  );
}

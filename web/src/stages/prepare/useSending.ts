import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { sendFile } from "../../api/client";
import { useHealth } from "../../api/queries";

const MB = 1024 * 1024;

/** Sending a file to a path of the study: how far it has got, what was refused, and a way to stop. */
export function useSending(study: string, where: string, onTaken?: () => void) {
  const client = useQueryClient();
  const limit = useHealth().data?.upload_limit ?? 200 * MB;
  const [progress, setProgress] = useState<number | null>(null);
  const [refusal, setRefusal] = useState("");
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
      await sendFile(study, where, file, setProgress, stop.current.signal);
      await client.invalidateQueries();
      onTaken?.();
    } catch (error) {
      setRefusal(error instanceof Error ? error.message : String(error));
    } finally {
      setProgress(null);
    }
  };
  return {
    send,
    progress,
    refusal,
    limitInMb: Math.round(limit / MB),
    cancel: () => stop.current?.abort(),
  };
}

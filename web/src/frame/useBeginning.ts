import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useCreateStudy, useDeleteStudy } from "../api/changes";
import { sendFile } from "../api/client";

const MAX_NAME_CHARACTERS = 200;

/** Beginning a study: under a name, from a demo, or with a file dropped or rows pasted anywhere. */
export function useBeginning() {
  const create = useCreateStudy();
  const remove = useDeleteStudy();
  const navigate = useNavigate();
  const client = useQueryClient();
  const [busy, setBusy] = useState("");
  const [refusal, setRefusal] = useState("");
  const begin = async (body: { name?: string; demo?: string }) => {
    setRefusal("");
    const { id } = await create.mutateAsync(body);
    navigate(`/studies/${id}/prepare`);
  };
  const withFile = async (file: File | undefined) => {
    if (!file || busy) return;
    setRefusal("");
    setBusy(`Reading ${file.name} …`);
    const stop = new AbortController();
    try {
      const { id } = await create.mutateAsync({ name: nameOf(file.name) });
      try {
        await sendFile(id, "file", file, () => undefined, stop.signal);
      } catch (error) {
        await remove.mutateAsync(id); // a study without its file was not what was wanted
        throw error;
      }
      await client.invalidateQueries({ queryKey: ["studies"] });
      navigate(`/studies/${id}/prepare`);
    } catch (error) {
      setRefusal(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy("");
    }
  };
  const latest = useRef(withFile);
  latest.current = withFile;
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      if ((event.target as HTMLElement).closest("input, textarea, [role=dialog]")) return;
      const file = event.clipboardData?.files[0];
      const text = event.clipboardData?.getData("text/plain") ?? "";
      if (file) void latest.current(file);
      else if (/\S\s*\n/.test(text)) void latest.current(new File([text], "pasted rows.txt"));
    };
    const over = (event: DragEvent) => event.preventDefault();
    const drop = (event: DragEvent) => {
      event.preventDefault();
      void latest.current(event.dataTransfer?.files[0]);
    };
    window.addEventListener("paste", paste);
    window.addEventListener("dragover", over);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("paste", paste);
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", drop);
    };
  }, []);
  return { begin, withFile, busy, refusal, creating: create.isPending, error: create.error };
}

/** A study is called after its file at first: "valve_tallies.ods" is valve tallies. */
function nameOf(file: string): string {
  const words = file
    .replace(/\.[a-z0-9]{1,8}$/i, "")
    .replaceAll("_", " ")
    .trim();
  const name = words || "A study";
  return (name.charAt(0).toUpperCase() + name.slice(1)).slice(0, MAX_NAME_CHARACTERS);
}

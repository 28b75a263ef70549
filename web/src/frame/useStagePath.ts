import { useEffect, useRef } from "react";
import { useLocation } from "react-router";

/** Gives the address of a stage, with the view or views that were last open there. */
export function useStagePath(study: string, open: string): (stage: string) => string {
  const { search } = useLocation();
  const last = useRef(new Map<string, string>());
  const path = (stage: string) => `/studies/${study}/${stage}`;
  const shown = path(open);
  useEffect(() => {
    last.current.set(shown, search);
  }, [shown, search]);
  return (stage) => path(stage) + (last.current.get(path(stage)) ?? "");
}

import { useEffect, useState } from "react";
import { useBegin } from "../api/changes";
import { useViews } from "../api/view";

/** Begins a view as a copy of another, and shows it once it is there. */
export function useBeginView(
  study: string,
  stage: string,
  open: (letter: string | undefined) => void,
): (copied: number | null) => void {
  const { lines } = useViews(study, stage);
  const { mutate, data } = useBegin(study);
  const [begun, setBegun] = useState<number | null>(null);
  const made = lines.find((line) => line.id === begun);
  useEffect(() => {
    if (data) setBegun(data.id);
  }, [data]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is opened once, when it is there
  useEffect(() => {
    if (!made) return;
    setBegun(null);
    open(made.letter);
  }, [made]);
  return (copied) => mutate({ stage, name: "", copy_of: copied });
}

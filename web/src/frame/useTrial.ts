import { useCallback, useEffect, useRef, useState } from "react";
import { fetchTrial } from "../api/queries";
import { setAt } from "../api/setAt";
import type { Statement, Trial } from "../api/types";

/**
 * What a statement that is being tried would draw, until there is another result or it is stopped; one
 * is requested at a time, and always the latest.
 */
export function useTrial(study: string, statement: Statement | null | undefined, drawing: string) {
  const [tried, setTried] = useState<Trial | null>(null);
  const next = useRef<Statement | null>(null);
  const busy = useRef(false);
  const round = useRef(0);
  const stop = useCallback(() => {
    round.current += 1; // what is on its way is not shown any more
    next.current = null;
    setTried(null);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another drawing ends the trial
  useEffect(stop, [drawing]);
  const ask = async () => {
    if (busy.current) return;
    busy.current = true;
    for (let wanted = next.current; wanted; wanted = next.current) {
      next.current = null;
      const requested = round.current;
      const found = await fetchTrial(study, wanted).catch(() => null);
      if (found && requested === round.current) setTried(found);
    }
    busy.current = false;
  };
  return {
    tried,
    stop,
    onTry: (field: string, value: unknown) => {
      if (!statement) return;
      next.current = setAt(statement, { field, value });
      void ask();
    },
  };
}

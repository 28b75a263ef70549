import { useEffect, useRef, useState } from "react";
import { fetchTrial } from "../api/queries";
import { setAt } from "../api/setAt";
import type { Figure, Statement } from "../api/types";

/**
 * The curves of a statement that is being tried, until there is another result; one is asked for at
 * a time, and always the latest.
 */
export function useTrial(study: string, statement: Statement | null | undefined, drawing: string) {
  const [tried, setTried] = useState<Figure | null>(null);
  const next = useRef<Statement | null>(null);
  const busy = useRef(false);
  const current = useRef(drawing);
  useEffect(() => {
    current.current = drawing;
    next.current = null;
    setTried(null);
  }, [drawing]);
  const ask = async () => {
    if (busy.current) return;
    busy.current = true;
    for (let wanted = next.current; wanted; wanted = next.current) {
      next.current = null;
      const asked = current.current;
      const figure = await fetchTrial(study, wanted).catch(() => null);
      if (figure && asked === current.current) setTried(figure);
    }
    busy.current = false;
  };
  return {
    tried,
    onTry: (field: string, value: unknown) => {
      if (!statement) return;
      next.current = setAt(statement, field, value);
      void ask();
    },
  };
}

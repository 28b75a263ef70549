import { useQueries, useQuery } from "@tanstack/react-query";
import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { fromPages, PAGE } from "../api/pages";
import type { WorkingsOf } from "../api/types";
import { useView } from "../api/view";
import { whileWorking } from "../api/whileWorking";
import { fetchWorkings, type TermOrder } from "../api/workings";
import "./workings.css";

/** A figure whose workings can be requested, and the stage it belongs to. */
export interface Worked extends WorkingsOf {
  stage: string;
  /** The view whose figure it is; null for the first of its stage. */
  analysis: number | null;
}

interface Open {
  requested: Worked | null;
  show: (worked: Worked) => void;
  /** Workings that the ones shown open: one can go back from them. */
  further: (worked: Worked) => void;
  /** The same workings with other parameters, in their place. */
  again: (worked: Worked) => void;
  back: (() => void) | null;
  close: () => void;
}

const Context = createContext<Open | null>(null);

/** Remembers which figure's workings are open on a page, and gives the focus back on closing. */
export function WorkingsProvider({ children }: { children: ReactNode }) {
  const [trail, setTrail] = useState<readonly Worked[]>([]);
  const from = useRef<HTMLElement | null>(null);
  const show = useCallback((worked: Worked) => {
    from.current = document.activeElement as HTMLElement | null;
    setTrail([worked]);
  }, []);
  const further = useCallback((worked: Worked) => setTrail((now) => [...now, worked]), []);
  const again = useCallback(
    (worked: Worked) => setTrail((now) => [...now.slice(0, -1), worked]),
    [],
  );
  const close = useCallback(() => {
    setTrail([]);
    from.current?.focus();
  }, []);
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      if (event.key === "Escape" && !event.defaultPrevented) close();
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [close]);
  const value = useMemo(() => {
    const back = () => setTrail((now) => now.slice(0, -1));
    const requested = trail.at(-1) ?? null;
    return { requested, show, further, again, back: trail.length > 1 ? back : null, close };
  }, [trail, show, further, again, close]);
  return <Context value={value}>{children}</Context>;
}

export function useWorkings(): Open {
  const open = useContext(Context);
  if (!open) throw new Error("workings are shown only inside a WorkingsProvider");
  return open;
}

/** A number with a dotted underline that opens its workings. */
export function WorkedNumber({
  stage,
  of,
  children,
}: {
  stage: string;
  of: WorkingsOf;
  children: ReactNode;
}) {
  const { show } = useWorkings();
  const { analysis } = useView();
  return (
    <button
      type="button"
      className="worked"
      title="Show the workings"
      onClick={() => show({ ...of, stage, analysis })}
    >
      {children}
    </button>
  );
}

/** The first page of a figure's workings, requested again while they are being worked out. */
export function useWorkingsOf(study: string, requested: Worked | null) {
  return useQuery({
    queryKey: ["study", study, "workings", requested, 0],
    enabled: requested !== null,
    queryFn: () => fetchWorkings(study, requested as Worked, 0, null),
    refetchInterval: whileWorking,
  });
}

/** The terms of a figure's workings, page by page: those of the pages wanted, null for the others. */
export function useTerms(
  study: string,
  requested: Worked,
  order: TermOrder | null,
  total: number,
  pages: readonly number[],
) {
  const found = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["study", study, "workings", requested, page * PAGE, order],
      queryFn: () => fetchWorkings(study, requested, page * PAGE, order),
    })),
  });
  const arrived = new Map(
    found.flatMap((query, k) =>
      query.data?.result ? [[pages[k] as number, query.data.result.rows] as const] : [],
    ),
  );
  const state = found.map((query) => query.dataUpdatedAt).join(",");
  // biome-ignore lint/correctness/useExhaustiveDependencies: when each page came is the key
  return useMemo(() => fromPages(total, arrived), [total, state, order]);
}

import { useQuery } from "@tanstack/react-query";
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
import { api, taken } from "../api/client";
import type { Workings } from "../api/types";

/** A figure whose workings can be asked for. */
export type Worked =
  | { figure: "survival"; t: number; group: number | null }
  | { figure: "median"; group: number | null }
  | { figure: "log-rank" }
  | { figure: "hazard-ratio"; column: number };

interface Open {
  asked: Worked | null;
  show: (worked: Worked) => void;
  close: () => void;
}

const Context = createContext<Open | null>(null);

/** Remembers which figure's workings are open on a page, and gives the focus back on closing. */
export function WorkingsProvider({ children }: { children: ReactNode }) {
  const [asked, setAsked] = useState<Worked | null>(null);
  const from = useRef<HTMLElement | null>(null);
  const show = useCallback((worked: Worked) => {
    from.current = document.activeElement as HTMLElement | null;
    setAsked(worked);
  }, []);
  const close = useCallback(() => {
    setAsked(null);
    from.current?.focus();
  }, []);
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      if (event.key === "Escape" && !event.defaultPrevented) close();
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [close]);
  const value = useMemo(() => ({ asked, show, close }), [asked, show, close]);
  return <Context value={value}>{children}</Context>;
}

export function useWorkings(): Open {
  const open = useContext(Context);
  if (!open) throw new Error("workings are shown only inside a WorkingsProvider");
  return open;
}

/** A number with a dotted underline that opens its workings. */
export function WorkedNumber({ of, children }: { of: Worked; children: ReactNode }) {
  const { show } = useWorkings();
  return (
    <button type="button" className="worked" title="Show the workings" onClick={() => show(of)}>
      {children}
    </button>
  );
}

export function useWorkingsOf(study: string, asked: Worked | null) {
  return useQuery<Workings>({
    queryKey: ["study", study, "workings", asked],
    enabled: asked !== null,
    queryFn: () => fetchWorkings(study, asked as Worked),
  });
}

function fetchWorkings(study: string, asked: Worked): Promise<Workings> {
  const path = { study_id: study };
  switch (asked.figure) {
    case "survival":
      return taken(
        api.GET("/api/studies/{study_id}/workings/survival", {
          params: { path, query: { t: asked.t, ...grouped(asked.group) } },
        }),
      );
    case "median":
      return taken(
        api.GET("/api/studies/{study_id}/workings/median", {
          params: { path, query: grouped(asked.group) },
        }),
      );
    case "log-rank":
      return taken(api.GET("/api/studies/{study_id}/workings/log-rank", { params: { path } }));
    case "hazard-ratio":
      return taken(
        api.GET("/api/studies/{study_id}/workings/hazard-ratio", {
          params: { path, query: { column: asked.column } },
        }),
      );
  }
}

function grouped(group: number | null): { group?: number } {
  return group === null ? {} : { group };
}

import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { type ComponentType, lazy, type ReactNode, useEffect, useMemo, useState } from "react";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { Refusal } from "./api/client";
import { watchRevisions } from "./api/revisions";
import { guardUnsentChanges } from "./api/unsentChanges";
import { StageBoundary } from "./frame/StageBoundary";
import { StudyFrame } from "./frame/StudyFrame";
import { StudyListPage } from "./frame/StudyListPage";
import { keepMode, type Mode, startingMode, themeOf } from "./theme/theme";
import { setTones } from "./theme/tones";

const client = new QueryClient({
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: false,
      // A refusal is an answer; only a server that does not answer is worth asking again.
      retry: (failures, error) =>
        failures < 2 && error instanceof Refusal && error.kind === "urn:hourglass:server-away",
    },
  },
});

watchRevisions(client);
guardUnsentChanges(client);

interface View {
  study: string;
  stage: string;
}

/** The stages with a page of their own; all others are shown by what the server sends of them. */
const PAGES: Record<string, ComponentType<View>> = {
  prepare: lazy(async () => ({ default: (await import("./stages/prepare/Prepare")).Prepare })),
  report: lazy(async () => ({ default: (await import("./stages/report/Report")).Report })),
};
const AnyStage = lazy(async () => ({
  default: (await import("./stages/any/AnyStage")).AnyStage,
}));

function view(study: string, stage: string): ReactNode {
  const Page = PAGES[stage] ?? AnyStage;
  return (
    <StageBoundary name={stage}>
      <Page key={`${study}/${stage}`} study={study} stage={stage} />
    </StageBoundary>
  );
}

export function App() {
  const [mode, setMode] = useState<Mode>(startingMode);
  useEffect(() => {
    document.documentElement.dataset.theme = mode;
    setTones(mode);
  }, [mode]);
  const router = useMemo(() => {
    const turn = () =>
      setMode((now) => {
        const next = now === "light" ? "dark" : "light";
        keepMode(next);
        return next;
      });
    return createBrowserRouter([
      { path: "/", element: <StudyListPage onTheme={turn} /> },
      { path: "/studies/:study", element: <Navigate to="prepare" replace /> },
      {
        path: "/studies/:study/:stage",
        element: <StudyFrame onTheme={turn} stage={view} />,
      },
      { path: "*", element: <Navigate to="/" replace /> },
    ]);
  }, []);
  return (
    <QueryClientProvider client={client}>
      <ThemeProvider theme={themeOf(mode)}>
        <RouterProvider router={router} />
      </ThemeProvider>
    </QueryClientProvider>
  );
}

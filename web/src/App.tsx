import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { type ComponentType, lazy, type ReactNode, useEffect, useMemo, useState } from "react";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { Refusal } from "./api/client";
import { StageBoundary } from "./frame/StageBoundary";
import { StudyFrame } from "./frame/StudyFrame";
import { StudyListPage } from "./frame/StudyListPage";
import { keepMode, type Mode, startingMode, themeOf } from "./theme/theme";

const client = new QueryClient({
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: false,
      // The server's refusals are answers; only its silence is worth asking again.
      retry: (failures, error) =>
        failures < 2 && error instanceof Refusal && error.kind === "urn:hourglass:server-away",
    },
  },
});

/** Each stage is a bundle of its own, fetched when it is first opened. */
const VIEWS: Record<string, ComponentType<{ study: string }>> = {
  prepare: lazy(async () => ({ default: (await import("./stages/prepare/Prepare")).Prepare })),
  estimate: lazy(async () => ({ default: (await import("./stages/estimate/Estimate")).Estimate })),
  compare: lazy(async () => ({ default: (await import("./stages/compare/Compare")).Compare })),
  model: lazy(async () => ({ default: (await import("./stages/model/Model")).Model })),
  check: lazy(async () => ({ default: (await import("./stages/check/Check")).Check })),
  report: lazy(async () => ({ default: (await import("./stages/report/Report")).Report })),
};

function view(study: string, stage: string): ReactNode {
  const View = VIEWS[stage];
  if (!View) return <Navigate to={`/studies/${study}/prepare`} replace />;
  return (
    <StageBoundary name={stage}>
      <View key={study} study={study} />
    </StageBoundary>
  );
}

export function App() {
  const [mode, setMode] = useState<Mode>(startingMode);
  useEffect(() => {
    document.documentElement.dataset.theme = mode;
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

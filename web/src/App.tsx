import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useState } from "react";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { Refusal } from "./api/client";
import { StudyFrame } from "./frame/StudyFrame";
import { StudyListPage } from "./frame/StudyListPage";
import { Check } from "./stages/check/Check";
import { Compare } from "./stages/compare/Compare";
import { Estimate } from "./stages/estimate/Estimate";
import { Model } from "./stages/model/Model";
import { Prepare } from "./stages/prepare/Prepare";
import { Report } from "./stages/report/Report";
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

const VIEWS: Record<string, (study: string) => ReactNode> = {
  prepare: (study) => <Prepare key={study} study={study} />,
  estimate: (study) => <Estimate key={study} study={study} />,
  compare: (study) => <Compare key={study} study={study} />,
  model: (study) => <Model key={study} study={study} />,
  check: (study) => <Check key={study} study={study} />,
  report: (study) => <Report key={study} study={study} />,
};

function view(study: string, stage: string): ReactNode {
  return VIEWS[stage]?.(study) ?? <Navigate to={`/studies/${study}/prepare`} replace />;
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

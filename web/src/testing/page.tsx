import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { useLocation } from "react-router";

/** Where somebody has been led to, with what was handed on. */
export function Place() {
  const { pathname, state } = useLocation();
  return <output>{state === null ? pathname : `${pathname} ${JSON.stringify(state)}`}</output>;
}

/** A part of the page as a user meets it, with somebody to press its keys. */
export function shown(part: ReactNode) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const inside = (what: ReactNode) => (
    <QueryClientProvider client={client}>{what}</QueryClientProvider>
  );
  const found = render(inside(part));
  return {
    ...found,
    rerender: (what: ReactNode) => found.rerender(inside(what)),
    client,
    user: userEvent.setup(),
  };
}

import Button from "@mui/material/Button";
import { type ReactNode, Suspense } from "react";
import { ErrorBoundary } from "react-error-boundary";

/** A stage that arrives when it is first opened, and whose failure leaves the page around it standing. */
export function StageBoundary({ name, children }: { name: string; children: ReactNode }) {
  return (
    <ErrorBoundary
      resetKeys={[name]}
      fallbackRender={({ error, resetErrorBoundary }) => (
        <main className="notice" id="main">
          <h1>This view failed</h1>
          <p role="alert">
            This is a fault in Olden Hourglass, not in your data. Nothing was changed; the other
            stages can still be opened.
          </p>
          <p className="quiet">{error instanceof Error ? error.message : String(error)}</p>
          <Button variant="outlined" onClick={resetErrorBoundary}>
            Try again
          </Button>
        </main>
      )}
    >
      <Suspense fallback={<p className="notice quiet">Opening …</p>}>{children}</Suspense>
    </ErrorBoundary>
  );
}

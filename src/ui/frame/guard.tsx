"use client";

import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";

/** What stands in the place of something that could not be drawn: what failed, and a way to try again. */
export function Broken({ what, error, onRetry }: { what: string; error: unknown; onRetry: () => void }) {
  const said = error instanceof Error ? error.message : String(error);
  return (
    <div role="alert" className="plate border-l-4 border-l-error p-3">
      <p className="font-bold text-error">✕ {what} could not be drawn</p>
      <p className="text-muted">
        A fault in Tin Ladder: <span className="num">{said || "no reason was given"}</span>. What is stored is not
        touched.
      </p>
      <button type="button" className="btn btn-sm mt-2" onClick={onRetry}>
        Try again
      </button>
    </div>
  );
}

/**
 * Keeps what breaks while it is drawn to its own place on the page.
 *
 * @param again what it is drawn from: when that changes, it is tried again by itself
 */
export function Guard({ what, again, children }: { what: string; again?: unknown; children: ReactNode }) {
  return (
    <ErrorBoundary
      resetKeys={[again]}
      fallbackRender={({ error, resetErrorBoundary }: FallbackProps) => (
        <Broken what={what} error={error} onRetry={resetErrorBoundary} />
      )}
    >
      {children}
    </ErrorBoundary>
  );
}

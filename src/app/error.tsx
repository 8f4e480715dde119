"use client";

import { Broken } from "@/ui/frame/guard";

/** What stands in the place of a page that could not be drawn; navigation and time rail stay. */
export default function PageError({ error, reset }: { error: Error; reset: () => void }) {
  return <Broken what="This page" error={error} onRetry={reset} />;
}

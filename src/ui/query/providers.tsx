"use client";

import { type DehydratedState, hydrate, QueryClientProvider, useQueryClient } from "@tanstack/react-query";
import { ThemeProvider } from "next-themes";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import { type ReactNode, useLayoutEffect, useState } from "react";
import { AnswersClient } from "./answersClient";
import { ViewerScope } from "./viewer";

/**
 * Takes the answers in that came with the document: once the page stands in the browser as it stood on the server, where
 * times have no zone yet, and before any of its parts asks. That holds only where the whole page becomes alive at once:
 * nothing in it may suspend on the server.
 */
function TakeIn({ answers }: { answers: DehydratedState | null }) {
  const client = useQueryClient();
  useLayoutEffect(() => {
    if (answers) hydrate(client, answers);
  }, [client, answers]);
  return null;
}

/**
 * What every page stands in: theme, address state, the viewer, and the cache of answers.
 *
 * @param opened the server's clock when the document was made, Unix ms
 * @param answers what came with it
 * @param nonce what scripts that stand in the document have to bear
 */
export function Providers({
  opened,
  answers,
  nonce,
  children,
}: {
  opened: number;
  answers: DehydratedState | null;
  nonce: string | undefined;
  children: ReactNode;
}) {
  const [client] = useState(() => new AnswersClient());
  return (
    <ThemeProvider
      attribute="data-theme"
      themes={["tin", "soot"]}
      value={{ light: "tin", dark: "soot", tin: "tin", soot: "soot" }}
      defaultTheme="system"
      enableSystem
      nonce={nonce}
    >
      <NuqsAdapter>
        <QueryClientProvider client={client}>
          <TakeIn answers={answers} />
          <ViewerScope opened={opened}>{children}</ViewerScope>
        </QueryClientProvider>
      </NuqsAdapter>
    </ThemeProvider>
  );
}

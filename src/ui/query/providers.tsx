"use client";

import { type DehydratedState, hydrate, QueryClientProvider, useQueryClient } from "@tanstack/react-query";
import { ThemeProvider } from "next-themes";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import { type ReactNode, useLayoutEffect, useState } from "react";
import { AnswersClient } from "./answersClient";
import { ViewerScope } from "./viewer";

/** Answers that the document was drawn with; those that come behind it are not among them. */
function drawnWith(answers: DehydratedState): DehydratedState {
  return { ...answers, queries: answers.queries.filter(({ state }) => state.status === "success") };
}

/**
 * Takes in what comes behind the document: once the page stands in the browser as it stood on the server, which drew it
 * without. That holds only where the whole page becomes alive at once: nothing in it may suspend on the server.
 */
function TakeIn({ answers }: { answers: DehydratedState | null }) {
  const client = useQueryClient();
  useLayoutEffect(() => {
    if (answers) hydrate(client, answers);
  }, [client, answers]);
  return null;
}

/** A cache of answers that has those that the document was drawn with: none where nobody told by which zone to draw. */
function makeClient(answers: DehydratedState | null, zone: string | null): AnswersClient {
  const client = new AnswersClient();
  if (answers && zone !== null) hydrate(client, drawnWith(answers));
  return client;
}

/**
 * What every page stands in: theme, address state, the viewer, and the cache of answers.
 *
 * @param opened the server's clock when the document was made, Unix ms
 * @param zone the viewer's zone, where their browser has told it before
 * @param answers what came with it
 * @param nonce what scripts that stand in the document have to bear
 */
export function Providers({
  opened,
  zone,
  answers,
  nonce,
  children,
}: {
  opened: number;
  zone: string | null;
  answers: DehydratedState | null;
  nonce: string | undefined;
  children: ReactNode;
}) {
  const [client] = useState(() => makeClient(answers, zone));
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
          <ViewerScope opened={opened} told={zone}>
            {children}
          </ViewerScope>
        </QueryClientProvider>
      </NuqsAdapter>
    </ThemeProvider>
  );
}

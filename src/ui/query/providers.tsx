"use client";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ThemeProvider } from "next-themes";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import { type ReactNode, useState } from "react";
import { isRefusal } from "./api";

/** What every page stands in: theme, address state, and the cache of answers. */
export function Providers({ children }: { children: ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: {
          queries: {
            refetchOnWindowFocus: false,
            // What failed is asked again, so that a page recovers when the server does.
            refetchInterval: ({ state }) => (state.status === "error" && !isRefusal(state.error) ? 4000 : false),
            retry: (count, error) => count < 2 && !isRefusal(error),
          },
        },
      }),
  );
  return (
    <ThemeProvider
      attribute="data-theme"
      themes={["tin", "soot"]}
      value={{ light: "tin", dark: "soot", tin: "tin", soot: "soot" }}
      defaultTheme="system"
      enableSystem
    >
      <NuqsAdapter>
        <QueryClientProvider client={client}>{children}</QueryClientProvider>
      </NuqsAdapter>
    </ThemeProvider>
  );
}

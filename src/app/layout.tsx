import type { Metadata } from "next";
import { type ReactNode, Suspense } from "react";
import { Frame } from "@/ui/frame/frame";
import { Providers } from "@/ui/query/providers";
import "./globals.css";

export const metadata: Metadata = {
  title: "Tin Ladder",
  description: "Latency, throughput and errors of every release",
};

export default function RootLayout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Providers>
          <Suspense>
            <Frame>{children}</Frame>
          </Suspense>
        </Providers>
      </body>
    </html>
  );
}

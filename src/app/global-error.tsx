"use client";

import { Broken } from "@/ui/frame/guard";
import "./globals.css";

/** What stands where even the frame could not be drawn. */
export default function ApplicationError({ error }: { error: Error }) {
  return (
    <html lang="en">
      <body>
        <main className="mx-auto mt-24 max-w-xl p-4">
          <Broken what="Tin Ladder" error={error} onRetry={() => window.location.reload()} />
        </main>
      </body>
    </html>
  );
}

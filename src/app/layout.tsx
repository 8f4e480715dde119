import type { Metadata } from "next";
import { cookies, headers } from "next/headers";
import { redirect } from "next/navigation";
import type { ReactNode } from "react";
import { ADDRESS_HEADER } from "@/core/http/addressHeader";
import { NONCE_HEADER } from "@/core/http/headers";
import { isZone } from "@/core/window/steps";
import { KeepDoings } from "@/ui/before/keepDoings";
import { Frame } from "@/ui/frame/frame";
import { isEntry } from "@/ui/frame/pages";
import { Providers } from "@/ui/query/providers";
import { ZONE_COOKIE } from "@/ui/query/zoneCookie";
import { asOneDocument, callerFrom } from "./api/caller";
import { firstAnswers } from "./first/firstAnswers";
import "./globals.css";

export const metadata: Metadata = {
  title: { template: "%s · Tin Ladder", default: "Tin Ladder" },
  description: "Latency, throughput and errors of every release",
};

/** Sends who may not see a page to where they may go on; back here afterwards. */
async function admit(address: string, asked: Headers): Promise<void> {
  const path = new URL(address, "http://localhost").pathname;
  if (isEntry(path)) return;
  const caller = await callerFrom(asked).catch(() => ({ kind: "nobody" }) as const);
  if (caller.kind === "nobody") redirect(`/sign-in?to=${encodeURIComponent(address)}`);
  if (caller.kind === "account" && caller.mustSetUpCodes && path !== "/settings") redirect("/settings");
}

/** Every page of the application, with the first answers that it will ask for. */
export default async function RootLayout({ children }: { children: ReactNode }) {
  const opened = Date.now();
  const asked = await headers();
  const address = asked.get(ADDRESS_HEADER);
  const told = (await cookies()).get(ZONE_COOKIE)?.value ?? "";
  const zone = told !== "" && isZone(told) ? told : null;
  const answers = await asOneDocument(async () => {
    if (address === null) return null;
    await admit(address, asked);
    return firstAnswers(address, opened, zone, asked);
  });
  const nonce = asked.get(NONCE_HEADER) ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <KeepDoings nonce={nonce} />
        <Providers opened={opened} zone={zone} answers={answers} nonce={nonce}>
          <Frame>{children}</Frame>
        </Providers>
      </body>
    </html>
  );
}

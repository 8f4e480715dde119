"use client";

import type { ReactNode } from "react";
import { ownPage } from "@/core/http/ownPage";

/** What every page for who is not signed in looks like: a plate between the two rails of the ladder. */
export function Door({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="w-full max-w-[26rem]">
      <p className="text-[22px] font-bold leading-tight" style={{ fontStretch: "80%" }}>
        Tin Ladder
      </p>
      <p className="mb-4 text-[12.5px] text-muted">Latency, throughput and errors of every release</p>
      <div className="border-x-[3px] border-double border-[color-mix(in_srgb,var(--color-secondary)_55%,var(--color-base-300))] px-3">
        <section className="plate px-5 py-4">
          <h1 className="text-[19px] font-bold">{title}</h1>
          {children}
        </section>
      </div>
    </div>
  );
}

/** Goes on with a new document: nothing of what was asked before is kept. */
export function goOn(to: string | null): void {
  location.assign(ownPage(to));
}

"use client";

import { parseAsInteger, parseAsStringLiteral, useQueryState } from "nuqs";
import { ProblemNote } from "../frame/problemNote";
import { useTargets } from "../query/services";
import { useOverview } from "../query/use";
import { HandWay } from "./byHand";
import { ScrapeWay } from "./scrape";
import { SdkWay } from "./sdk";

const WAYS = ["sdk", "scrape", "hand"] as const;
type Way = (typeof WAYS)[number];

const WORDS: Record<Way, { title: string; says: string }> = {
  sdk: { title: "A service of ours", says: "We can put an OpenTelemetry SDK into it; it sends by itself." },
  scrape: { title: "A page of metrics", says: "Something shows its metrics at an address; we come and read it." },
  hand: { title: "One point, by hand", says: "A first try, or a script that has a number to tell." },
};

/** Three ways for points to come in, each up to the first that does. */
export function WaysIn() {
  const overview = useOverview();
  const targets = useTargets();
  const [way, setWay] = useQueryState("way", parseAsStringLiteral(WAYS).withDefault("sdk"));
  const [target] = useQueryState("target", parseAsInteger);
  const saved = target === null ? null : (targets.data?.find(({ id }) => id === target) ?? undefined);
  return (
    <>
      <div role="radiogroup" aria-label="What there is to add" className="mb-4 grid grid-cols-1 gap-2 md:grid-cols-3">
        {WAYS.map((one) => (
          // biome-ignore lint/a11y/useSemanticElements: a card to choose, with more in it than a label
          <button
            key={one}
            type="button"
            role="radio"
            aria-checked={way === one}
            onClick={() => void setWay(one)}
            className={`plate px-3 py-2 text-left ${way === one ? "border-b-[3px] border-b-primary" : "opacity-80 hover:opacity-100"}`}
          >
            <span className={`block font-bold ${way === one ? "text-primary" : ""}`}>{WORDS[one].title}</span>
            <span className="text-[12.5px]">{WORDS[one].says}</span>
          </button>
        ))}
      </div>
      {way === "sdk" && <SdkWay overview={overview.data} />}
      {way === "hand" && <HandWay overview={overview.data} />}
      {way === "scrape" && (target === null || saved) && <ScrapeWay key={target ?? 0} saved={saved ?? null} />}
      {way === "scrape" && target !== null && targets.data && !saved && (
        <ProblemNote error={new Error(`There is no target number ${target}; it may be deleted.`)} />
      )}
    </>
  );
}

export function AddPage() {
  const [target] = useQueryState("target", parseAsInteger);
  return (
    <>
      <h1 className="mb-3 text-[24px] font-bold leading-none">
        {target === null ? "Add a source" : "Change a target"}
      </h1>
      <WaysIn />
    </>
  );
}

"use client";

import { parseAsInteger, parseAsString, useQueryState } from "nuqs";
import { useOverview } from "../query/use";
import { HandWay } from "./byHand";
import { ScrapeWay } from "./scrape";
import { SdkWay } from "./sdk";
import type { Way } from "./ways";

/** The ways for points to come in: a line each. */
const WAYS: readonly Way[] = [
  {
    key: "sdk",
    title: "A service of ours",
    says: "We can put OpenTelemetry into it, or start it with it; it sends by itself.",
    Shown: SdkWay,
  },
  {
    key: "scrape",
    title: "A page of metrics",
    says: "Something shows its metrics at an address; we come and read it.",
    Shown: ScrapeWay,
  },
  {
    key: "hand",
    title: "One point, by hand",
    says: "A first try, or a script that has a number to tell.",
    Shown: HandWay,
  },
];

/** The ways to choose from, and the one that is chosen. */
export function WaysIn() {
  const overview = useOverview();
  const [key, setKey] = useQueryState("way", parseAsString.withDefault(WAYS[0].key));
  const way = WAYS.find((one) => one.key === key) ?? WAYS[0];
  return (
    <>
      <div role="radiogroup" aria-label="What there is to add" className="mb-4 grid grid-cols-1 gap-2 md:grid-cols-3">
        {WAYS.map((one) => (
          // biome-ignore lint/a11y/useSemanticElements: a card to choose, with more in it than a label
          <button
            key={one.key}
            type="button"
            role="radio"
            aria-checked={way === one}
            onClick={() => void setKey(one.key)}
            className={`plate px-3 py-2 text-left ${way === one ? "border-b-[3px] border-b-primary" : "opacity-80 hover:opacity-100"}`}
          >
            <span className={`block font-bold ${way === one ? "text-primary" : ""}`}>{one.title}</span>
            <span className="text-[12.5px]">{one.says}</span>
          </button>
        ))}
      </div>
      <way.Shown overview={overview.data} />
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

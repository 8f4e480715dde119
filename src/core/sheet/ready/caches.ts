import type { ReadySheet } from "./definition";

/** Caches. The conventions name none of them, so whatever is called a cache is looked at, by its outcome where it has one. */
export const caches: ReadySheet = {
  id: "caches",
  name: "Caches",
  purpose: "how often a cache is asked, and how often it has what is asked for",
  bands: [
    {
      title: "What it is asked, and how it answers",
      section: "Cache",
      of: ["cache.lookups", "cache.requests", "cache.gets"],
      plates: [
        {
          title: "How often it is asked",
          by: ["outcome", "cache.outcome", "cache.result", "result", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
        {
          title: "How it answers, in parts",
          by: ["outcome", "cache.outcome", "cache.result", "result"],
          text: "count of {metric} where {where} by {by}",
          as: "shares",
        },
        {
          title: "What it is asked for",
          by: ["cache.key", "cache.name", "key"],
          text: "rate of {metric} where {where} by {by} top 10",
          as: "table",
        },
      ],
    },
    { title: "Cache", plates: [], others: /(^|[._])caches?([._]|$)/ },
  ],
};

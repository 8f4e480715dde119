import type { Work } from "../../service/work";
import type { ReadyBand, ReadyPlate } from "./definition";

/** What is asked of every histogram of how long something took. */

interface Timed {
  /** The heading under which all of it stands. */
  section: string;
  work: Work;
  /** Histograms of durations, the best first. */
  of: readonly string[];
}

/** How often, how long, how many of it are slow, and how many fail. */
export function timedBands({ section, work, of }: Timed): readonly ReadyBand[] {
  return [
    {
      title: section,
      section,
      work,
      of,
      plates: [
        { title: "How many", text: "rate of {metric} where {where} by release" },
        { title: "How long, p95", text: "p95 of {metric} where {where} by release" },
      ],
    },
    {
      title: "Slow and failing",
      section,
      work,
      of,
      plates: [
        { title: "How many are slow", text: "share over {slow} of {metric} where {where} by release" },
        {
          title: "How many fail",
          needs: "error.type",
          text: "share of {metric} that error.type is there where {where} by release",
        },
      ],
    },
  ];
}

/** The same part by part. @param words what the parts are; `by`: attributes to part by, the first that there is */
export function parted(words: string, by: readonly string[]): readonly ReadyPlate[] {
  return [
    { title: `How many, by ${words}`, by, text: "rate of {metric} where {where} by {by} top 6" },
    { title: `How long, by ${words}`, by, text: "p95 of {metric} where {where} by {by} top 6" },
  ];
}

/** How long each of them took. */
export const EVERY_ONE: ReadyPlate = {
  title: "How long, every one",
  text: "spread of {metric} where {where}",
  as: "heat",
};

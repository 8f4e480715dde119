import { z } from "zod";
import { attributes, LEVEL_HOWS, seconds } from "../parts";
import { keeping, removing } from "./attributes";
import { defineStep, LEVEL_WORDS, removedFrom } from "./definition";
import { choice, either, names, number, text } from "./sentence";

export const merge = defineStep({
  type: "merge",
  lanes: ["metrics"],
  settings: {
    /** Whether the attributes are those that go, or those that stay. */
    mode: z.enum(["without", "by"]).default("without"),
    attributes,
    how: z.enum([...LEVEL_HOWS, "distinct"]).default("sum"),
    /** The name of what comes out; "" keeps it. */
    to: z.string().max(255).default(""),
    /** Whether what went in goes on as well. */
    originals: z.boolean().default(false),
    every: seconds.default(10),
  },
  blank: { attributes: ["service.instance.id"] },
  name: "merge series",
  does: "across attributes, into sum, mean, or how many",
  sentence: () => [
    "merge series ",
    choice("mode", "which attributes", { without: "leaving out", by: "keeping only" }),
    " ",
    names("attributes", "attributes"),
    ", ",
    choice("how", "how", { ...LEVEL_WORDS, distinct: "counted how many" }),
    " every ",
    number("every", "window in seconds"),
    " s, called ",
    text("to", "name of what comes out", "as before"),
    "; the originals ",
    either("originals", "the originals", "go on as well", "go no further"),
  ],
  documented: "series across attributes: sum, mean, least, greatest, last, or how many different ones",
  shape: (step) => (step.mode === "without" ? removing(step.attributes) : keeping(step.attributes)),
  renames: ({ to }) => to,
  makes: ({ to }) => to,
  originals: ({ originals }) => originals,
  doubles: ({ originals, to, how }) => originals && to === "" && how !== "distinct",
  windowed: "always",
  window: ({ every, how }, { shaped }) => ({
    every: every * 1000,
    within: "last",
    across: how,
    target: shaped,
    distinctOf: (series) => JSON.stringify(removedFrom(series.identity, shaped(series).identity)),
  }),
});

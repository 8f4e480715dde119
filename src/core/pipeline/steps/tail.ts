import { z } from "zod";
import { seconds, sharePart } from "../parts";
import { defineStep } from "./definition";
import { either, number, share } from "./sentence";

/** Waits for a trace to be whole, then keeps it or not. */
export const tail = defineStep({
  type: "tail",
  lanes: ["traces"],
  settings: {
    errors: z.boolean().default(true),
    /** Traces in which a span took longer are kept, s; null: none for that. */
    slower: z.number().positive().nullable().default(null),
    /** What is kept of the others. */
    share: sharePart.default(0.05),
    /** How long after its first span a trace is decided on, s. */
    within: seconds.default(10),
  },
  name: "keep whole traces",
  does: "those that failed or took long, and a share of the others",
  sentence: () => [
    "wait ",
    number("within", "seconds to wait"),
    " s for each trace, then keep it ",
    either("errors", "traces with errors", "where a span failed,", "whether it failed or not,"),
    " where a span took longer than ",
    number("slower", "slower than", "any"),
    " s, and ",
    share("share", "share of the others"),
    " of the others",
  ],
  documented: "waits for a trace, keeps it where a span failed or took long, and a share of the others",
  samples: true,
  waitsForTrace: true,
});

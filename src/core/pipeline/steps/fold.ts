import { z } from "zod";
import { folder } from "../fold";
import { attribute, FOLDS, ownPatterns } from "../parts";
import { changing } from "./attributes";
import { defineStep, windowedByChange, windowedSentence, windowedSettings } from "./definition";
import { text } from "./sentence";

export const fold = defineStep({
  type: "fold",
  lanes: ["metrics", "traces", "logs"],
  settings: { attribute, folds: z.array(z.enum(FOLDS)).max(FOLDS.length).default([]), own: ownPatterns },
  onMetrics: windowedSettings,
  blank: { attribute: "http.route", folds: ["numbers", "uuids"] },
  name: "fold values",
  does: "ids vanish into a pattern",
  sentence: (step) => ["fold in ", text("attribute", "attribute"), " ", { slot: "folds" }, ...windowedSentence(step)],
  documented: "ids in values become `{id}`; numbers, UUIDs, hex, addresses, or patterns of your own",
  shape: (step) => changing([step.attribute], folder(step)),
  tried: (step) => [step.attribute],
  windowed: "by change",
  window: windowedByChange,
});

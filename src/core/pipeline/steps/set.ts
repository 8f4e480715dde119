import { z } from "zod";
import { attribute } from "../parts";
import { setting } from "./attributes";
import { defineStep, windowedByChange, windowedSentence, windowedSettings } from "./definition";
import { text } from "./sentence";

export const set = defineStep({
  type: "set",
  lanes: ["metrics", "traces", "logs"],
  settings: { attribute, value: z.string().max(1000) },
  onMetrics: windowedSettings,
  blank: { attribute: "attribute", value: "value" },
  name: "set an attribute",
  does: "to one value",
  sentence: (step) => [
    "set ",
    text("attribute", "attribute"),
    " to ",
    text("value", "value"),
    ...windowedSentence(step),
  ],
  documented: "an attribute has one value, whether it was there or not",
  shape: (step) => setting(step.attribute, step.value),
  windowed: "by change",
  adds: true,
  window: windowedByChange,
});

import { attributes } from "../parts";
import { removing } from "./attributes";
import { defineStep, windowedByChange, windowedSentence, windowedSettings } from "./definition";
import { names } from "./sentence";

export const remove = defineStep({
  type: "remove",
  lanes: ["metrics", "traces", "logs"],
  settings: { attributes },
  onMetrics: windowedSettings,
  blank: { attributes: ["attribute"] },
  name: "remove attributes",
  does: "series that differ in nothing else meet",
  sentence: (step) => ["remove ", names("attributes", "attributes"), ...windowedSentence(step)],
  documented: "attributes go; series that differ in nothing else meet",
  shape: (step) => removing(step.attributes),
  windowed: "by change",
  window: windowedByChange,
});

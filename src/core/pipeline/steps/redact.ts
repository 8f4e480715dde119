import { compilePattern } from "../../pattern/pattern";
import { attributes, pattern } from "../parts";
import { changing } from "./attributes";
import { defineStep, windowedByChange, windowedSentence, windowedSettings } from "./definition";
import { names, text } from "./sentence";

export const redact = defineStep({
  type: "redact",
  lanes: ["metrics", "traces", "logs"],
  settings: { attributes, pattern },
  onMetrics: windowedSettings,
  blank: { attributes: ["attribute"], pattern: "pattern" },
  name: "redact attributes",
  does: "what a pattern finds becomes ***",
  sentence: (step) => [
    "in ",
    names("attributes", "attributes"),
    " redact what ",
    text("pattern", "pattern"),
    " finds",
    ...windowedSentence(step),
  ],
  documented: "what a pattern finds in values becomes `***`",
  shape: (step) => {
    const found = compilePattern(step.pattern);
    return changing(step.attributes, (value) => found.matcher(value).replaceAll("***"));
  },
  tried: (step) => step.attributes,
  windowed: "by change",
  window: windowedByChange,
});

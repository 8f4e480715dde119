import { RE2JS } from "re2js";
import { attributes, pattern } from "../parts";
import { changing } from "./attributes";
import { defineStep, meetingByChange, meetingSentence, meetingSettings } from "./definition";
import { names, text } from "./sentence";

export const redact = defineStep({
  type: "redact",
  lanes: ["metrics", "traces", "logs"],
  settings: { attributes, pattern },
  onMetrics: meetingSettings,
  blank: { attributes: ["attribute"], pattern: "pattern" },
  name: "redact attributes",
  does: "what a pattern finds becomes ***",
  sentence: (step) => [
    "in ",
    names("attributes", "attributes"),
    " redact what ",
    text("pattern", "pattern"),
    " finds",
    ...meetingSentence(step),
  ],
  documented: "what a pattern finds in values becomes `***`",
  shape: (step) => {
    const found = RE2JS.compile(step.pattern);
    return changing(step.attributes, (value) => found.matcher(value).replaceAll("***"));
  },
  tried: (step) => step.attributes,
  meets: "by change",
  meeting: meetingByChange,
});

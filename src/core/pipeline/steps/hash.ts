import { shortHash } from "../hash";
import { attributes } from "../parts";
import { changing } from "./attributes";
import { defineStep } from "./definition";
import { names } from "./sentence";

export const hash = defineStep({
  type: "hash",
  lanes: ["metrics", "traces", "logs"],
  settings: { attributes },
  blank: { attributes: ["attribute"] },
  name: "hash attributes",
  does: "told apart, but not told",
  sentence: () => ["hash ", names("attributes", "attributes")],
  documented: "values that are told apart without being told",
  shape: (step) => changing(step.attributes, shortHash),
  tried: (step) => step.attributes,
});

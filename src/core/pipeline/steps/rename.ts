import { attribute } from "../parts";
import { passingOn } from "./attributes";
import { defineStep } from "./definition";
import { text } from "./sentence";

export const rename = defineStep({
  type: "rename",
  lanes: ["metrics", "traces", "logs"],
  settings: { from: attribute, to: attribute },
  blank: { from: "attribute", to: "name" },
  name: "rename an attribute",
  does: "the same value under another name",
  sentence: () => ["call ", text("from", "attribute"), " ", text("to", "new name")],
  documented: "the value of an attribute under another name",
  shape: ({ from, to }) => passingOn(from, to, false),
});

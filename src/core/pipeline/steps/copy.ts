import { attribute } from "../parts";
import { passingOn } from "./attributes";
import { defineStep } from "./definition";
import { text } from "./sentence";

export const copy = defineStep({
  type: "copy",
  lanes: ["metrics", "traces", "logs"],
  settings: { from: attribute, to: attribute },
  blank: { from: "attribute", to: "name" },
  name: "copy an attribute",
  does: "the same value under a second name",
  sentence: () => ["copy ", text("from", "attribute"), " to ", text("to", "second name")],
  documented: "the value of an attribute under a second name",
  shape: ({ from, to }) => passingOn(from, to, true),
});

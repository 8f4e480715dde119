import { defineStep } from "./definition";

export const keep = defineStep({
  type: "keep",
  lanes: ["metrics", "traces", "logs"],
  settings: {},
  name: "keep",
  does: "only what matches goes further",
  sentence: () => ["keep only these"],
  documented: "only what matches goes further",
  lets: "matching",
});

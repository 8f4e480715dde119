import { defineStep } from "./definition";

export const drop = defineStep({
  type: "drop",
  lanes: ["metrics", "traces", "logs"],
  settings: {},
  name: "drop",
  does: "what matches goes no further",
  sentence: () => ["drop them"],
  documented: "what matches goes no further",
  lets: "others",
});

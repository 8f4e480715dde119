import { metricName } from "../parts";
import { defineStep } from "./definition";
import { text } from "./sentence";

export const metric = defineStep({
  type: "metric",
  lanes: ["metrics"],
  settings: { to: metricName },
  blank: { to: "name" },
  name: "rename a metric",
  does: "the same points under another name",
  sentence: () => ["call the metric ", text("to", "new name of the metric")],
  documented: "the same points under another name",
  renames: ({ to }) => to,
  makes: ({ to }) => to,
});

import { z } from "zod";
import { valueText } from "../../metric/text";
import { canonicalAttribute } from "../../reading/language/tree";
import { attribute, boundsPart, metricName, seconds, unitText } from "../parts";
import { defineStep } from "./definition";
import { choice, names, number, numbers, text } from "./sentence";

/** A metric from log records. */
export const records = defineStep({
  type: "records",
  lanes: ["logs"],
  settings: {
    to: metricName,
    what: z.enum(["count", "sum", "histogram"]).default("count"),
    /** The attribute whose numbers are added up or told apart. */
    field: z.string().trim().max(255).default(""),
    unit: unitText.default("{record}"),
    attributes: z.array(attribute).max(50).default(["log.severity"]),
    bounds: boundsPart.default([]),
    every: seconds.default(10),
  },
  check: ({ what, field }, context) => {
    if (what !== "count" && field === "")
      context.addIssue({ code: "custom", path: ["field"], message: "say which attribute has the numbers" });
  },
  blank: { to: "log.records" },
  name: "a metric from log records",
  does: "how many, or a number in them",
  sentence: ({ what }) => [
    choice("what", "what is made of them", {
      count: "count them",
      sum: "add up their",
      histogram: "make a histogram of their",
    }),
    " ",
    ...(what === "count" ? [] : [text("field", "attribute with numbers")]),
    " into ",
    text("to", "name of the metric"),
    " in ",
    text("unit", "unit"),
    " by ",
    names("attributes", "attributes"),
    ...(what === "histogram" ? [", with bounds ", numbers("bounds", "bounds")] : []),
    ", every ",
    number("every", "window in seconds"),
    " s",
  ],
  documented: "how many there are, or a number in them, added up or as a histogram",
  counts: ({ to, what, unit, field }) => {
    const name = canonicalAttribute(field);
    return (one, count) => {
      if (what === "count") return count.one(one, to, unit, "Log records");
      const said = one.now.attributes[name];
      const value = Number(valueText(said ?? ""));
      if (said === undefined || said === "" || !Number.isFinite(value)) return;
      if (what === "sum") count.sum(one, to, unit, "A number of log records, added up", value);
      else count.measure(one, to, unit, "A number of log records", value);
    };
  },
});

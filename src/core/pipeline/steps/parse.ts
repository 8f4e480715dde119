import { z } from "zod";
import { valueText } from "../../metric/text";
import { canonicalAttribute } from "../../reading/language/tree";
import { reader } from "../parseText";
import { attribute, pattern } from "../parts";
import { defineStep } from "./definition";
import { choice, text } from "./sentence";

/** Finds attributes in the text of a record. */
export const parse = defineStep({
  type: "parse",
  lanes: ["logs"],
  settings: {
    from: attribute.default("log.body"),
    format: z.enum(["logfmt", "json", "pattern"]).default("logfmt"),
    /** With named groups; for the format "pattern". */
    pattern: z.union([z.literal(""), pattern]).default(""),
    /** What the names of found attributes begin with. */
    prefix: z.string().trim().max(100).default(""),
  },
  check: (step, context) => {
    if (step.format === "pattern" && step.pattern === "")
      context.addIssue({ code: "custom", path: ["pattern"], message: "a pattern with named groups is expected" });
  },
  name: "parse texts",
  does: "attributes found in the text of a record",
  sentence: ({ format }) => [
    "find attributes in ",
    text("from", "where the text is"),
    ", written as ",
    choice("format", "how it is written", { logfmt: "key=value pairs", json: "JSON", pattern: "a pattern says" }),
    ...(format === "pattern" ? [": ", text("pattern", "pattern", "(?P<name>…)")] : []),
    ", their names beginning with ",
    text("prefix", "prefix", "nothing more"),
  ],
  documented: "attributes found in logfmt, JSON, or by a pattern with named groups",
  record: (step) => {
    const read = reader(step);
    const from = canonicalAttribute(step.from);
    return (one) => {
      const { attributes } = one.now;
      const value = attributes[from];
      if (value === undefined) return one;
      // What is there already is not overwritten: it was said, not found.
      const found = Object.entries(read(valueText(value))).filter(([name]) => !Object.hasOwn(attributes, name));
      if (found.length === 0) return one;
      return { ...one, now: { ...one.now, attributes: { ...attributes, ...Object.fromEntries(found) } } };
    };
  },
});

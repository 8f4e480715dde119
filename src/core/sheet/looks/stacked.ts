import { lookKind, parts } from "./definition";

const { order, top, rest, thresholds, to } = parts;

export const stacked = lookKind({
  as: "stacked",
  name: "stacked areas",
  note: "parts of a whole over time",
  settings: { order, top, rest, thresholds, to },
  shows: "steps",
  most: 6,
});

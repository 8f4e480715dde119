import { lookKind, parts } from "./definition";

const { thresholds } = parts;

export const distribution = lookKind({
  as: "distribution",
  name: "distribution",
  note: "how the values of a spread lie, over the whole window",
  settings: { thresholds },
  shows: "window",
  most: 1,
});

import { lookKind, parts } from "./definition";

const { thresholds } = parts;

export const distribution = lookKind({
  as: "distribution",
  name: "distribution",
  note: "how values of the whole window lie",
  settings: { thresholds },
  shows: "window",
  most: 3,
});

import { lookKind, parts } from "./definition";

export const lines = lookKind({
  as: "lines",
  name: "lines",
  note: "how values change over time",
  settings: parts,
  shows: "steps",
  most: 6,
});

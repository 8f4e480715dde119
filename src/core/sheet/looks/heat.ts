import { lookKind, parts } from "./definition";

const { thresholds } = parts;

export const heat = lookKind({
  as: "heat",
  name: "heat strip",
  note: "how a spread changes its shape over time",
  settings: { thresholds },
  shows: "steps",
  most: 1,
});

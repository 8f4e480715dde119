import { lookKind, parts } from "./definition";

const { top, rest } = parts;

export const shares = lookKind({
  as: "shares",
  name: "share bar",
  note: "what part of the whole each has",
  settings: { top, rest },
  shows: "window",
  most: 1,
});

import { z } from "zod";
import { lookKind, parts } from "./definition";

const { order, top, rest, thresholds, to } = parts;

export const bars = lookKind({
  as: "bars",
  name: "bars",
  note: "amounts per step, or one bar a series for the whole window",
  settings: { over: z.enum(["time", "values"]).default("values"), order, top, rest, thresholds, to },
  shows: "window",
  most: 6,
});

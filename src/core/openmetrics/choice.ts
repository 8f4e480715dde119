import { z } from "zod";
import { compilePattern } from "../pattern/pattern";
import { isPattern } from "../schema/refinements";

/** What of a target's metrics is collected: all, those named, or those whose whole name a pattern (RE2) describes. */
export const choiceSchema = z.discriminatedUnion("type", [
  z.object({ type: z.literal("all") }),
  z.object({ type: z.literal("metrics"), names: z.array(z.string().min(1).max(255)).max(20_000) }),
  z.object({
    type: z.literal("pattern"),
    pattern: z.string().min(1, "a pattern is expected, such as http_.*").max(500).superRefine(isPattern),
  }),
]);
export type Choice = z.infer<typeof choiceSchema>;

/** Whether a metric of that name is collected. */
export function collects(choice: Choice): (name: string) => boolean {
  switch (choice.type) {
    case "all":
      return () => true;
    case "metrics": {
      const names = new Set(choice.names);
      return (name) => names.has(name);
    }
    case "pattern": {
      const pattern = compilePattern(choice.pattern);
      return (name) => pattern.matches(name);
    }
  }
}

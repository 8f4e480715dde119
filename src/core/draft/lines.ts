import { structuredPatch } from "diff";
import { stringify } from "yaml";
import type { PipelineConfig } from "../pipeline/config";

/** What is another in one pipeline than in another, line by line as their files say it. */

export interface Line {
  /** Whether only the first has it, only the second, or both. */
  in: "first" | "second" | "both";
  text: string;
}

/** Lines that both have and that are told around those that differ. */
const AROUND = 3;

/** @returns stretches of lines around what differs; none where nothing does */
export function differingLines(first: PipelineConfig, second: PipelineConfig): Line[][] {
  const text = (config: PipelineConfig) => stringify(config, { lineWidth: 0 });
  const { hunks } = structuredPatch("", "", text(first), text(second), "", "", { context: AROUND });
  const place = { "-": "first", "+": "second", " ": "both" } as const;
  return hunks.map(({ lines }) =>
    lines.flatMap((line): Line[] => {
      const sign = line[0] as keyof typeof place;
      // Other signs say something of the file, such as that its end has no new line.
      return sign in place ? [{ in: place[sign], text: line.slice(1) }] : [];
    }),
  );
}

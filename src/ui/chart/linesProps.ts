import type { ReadingResult } from "@/core/reading/result";

/** What a chart of lines is given. */
export interface LinesProps {
  result: ReadingResult;
  /** Releases to mark, the newest first: their lines are the strongest. */
  marks?: readonly { release: string; at: number }[];
  height?: number;
  /** Draws all series, not only as many as have a colour of their own. */
  all?: boolean;
}

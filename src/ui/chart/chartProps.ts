import type { Chart } from "./drawn";
import type { PlacedThreshold } from "./thresholds";

/** What a chart over time is given. It is drawn anew where one of these is another, so each is to be the same as long as it says the same. */
export interface ChartProps {
  chart: Chart;
  /** Releases to mark. */
  marks?: readonly { release: string; at: number }[] | undefined;
  height?: number | undefined;
  /** Does something with a series whose name was chosen. */
  onName?: ((labels: Record<string, string | null>, at: { x: number; y: number }) => void) | undefined;
  /** Levels that mean something, with where they lie on the left axis, in the unit of its values. */
  thresholds?: readonly PlacedThreshold[] | undefined;
}

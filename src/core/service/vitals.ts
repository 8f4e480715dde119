import type { ReadingResult } from "../reading/result";

/** Memory, processor and garbage collection of instances, from the metrics of the semantic conventions that report them. */

const BY = "by service, release, environment, service.instance.id";

interface Way {
  metric: string;
  reading: string;
}

const way = (metric: string, how: string): Way => ({ metric, reading: `${how} of "${metric}" ${BY}` });

/** Ways to know a vital sign, the best first. */
const WAYS = {
  /** By. */
  memory: [
    way("process.memory.usage", "last"),
    way("jvm.memory.used", "last"),
    way("process_resident_memory_bytes", "last"),
  ],
  /** Processors in use: s/s or a part of one. */
  processor: [
    way("process.cpu.utilization", "mean"),
    way("process.cpu.time", "rate"),
    way("process_cpu_seconds", "rate"),
  ],
  /** Seconds spent on collecting garbage in the window. */
  garbage: [way("jvm.gc.duration", "sum"), way("v8js.gc.duration", "sum"), way("dotnet.gc.pause.time", "count")],
} satisfies Record<string, Way[]>;
export type Vital = keyof typeof WAYS;

/** The readings to ask, of the metrics that there are. */
export function vitalReadings(known: ReadonlySet<string>): { vital: Vital; reading: string }[] {
  return (Object.keys(WAYS) as Vital[]).flatMap((vital) => {
    const found = WAYS[vital].filter(({ metric }) => known.has(metric));
    return found.map(({ reading }) => ({ vital, reading }));
  });
}

/** What tells an instance from others. */
export function instanceKey(service: string, release: string, environment: string, instance: string): string {
  return JSON.stringify([service, release, environment, instance]);
}

/** The values of a vital reading, by instance. */
export function vitalValues(result: ReadingResult): Map<string, number> {
  const values = new Map<string, number>();
  for (const { labels, total } of result.series) {
    const key = instanceKey(
      labels["service.name"] ?? "",
      labels["service.version"] ?? "",
      labels["deployment.environment.name"] ?? "",
      labels["service.instance.id"] ?? "",
    );
    if (total !== null) values.set(key, total);
  }
  return values;
}

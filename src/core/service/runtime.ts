import { metricText } from "../reading/language/quote";
import type { LadderColumn } from "../release/setting";

/** Measures of processes that two releases are held against each other by, of the metrics that there are. */

interface Way {
  name: string;
  metric: string;
  how: string;
}

/** Per instance, on average; the first way that a service has counts (semantic conventions for processes and runtimes). */
const WAYS: readonly Way[][] = [
  [
    { name: "memory per instance", metric: "process.memory.usage", how: "mean" },
    { name: "memory per instance", metric: "process_resident_memory_bytes", how: "mean" },
    { name: "memory in use", metric: "jvm.memory.used", how: "sum" },
  ],
  [
    { name: "processor", metric: "process.cpu.utilization", how: "mean" },
    { name: "processor", metric: "jvm.cpu.recent_utilization", how: "mean" },
  ],
  [{ name: "event loop delay", metric: "nodejs.eventloop.delay.p90", how: "mean" }],
  [{ name: "heap in use", metric: "v8js.memory.heap.used", how: "mean" }],
  [
    { name: "garbage collection, p95", metric: "v8js.gc.duration", how: "p95" },
    { name: "garbage collection, p95", metric: "jvm.gc.duration", how: "p95" },
  ],
];

/** @param known the metrics that the service has */
export function runtimeMeasures(known: ReadonlySet<string>): LadderColumn[] {
  return WAYS.flatMap((ways) => {
    const way = ways.find(({ metric }) => known.has(metric));
    if (!way) return [];
    return [{ name: way.name, reading: `${way.how} of ${metricText(way.metric)} by release`, good: "less" as const }];
  });
}

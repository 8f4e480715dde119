import http from "node:http";
import { DEPOTS, ENVIRONMENT } from "./model";
import { normal } from "./random";

/**
 * The gateway of the lockers' firmware: no SDK, only a page of OpenMetrics text. Called as: lockers.js FIRMWARE PORT.
 * Firmware 3.2 tells which locker opened, which makes far too many series.
 */

const [firmware, port] = process.argv.slice(2);
const KINDS = ["hand", "garden", "powered"];
const BOUNDS = [0.25, 0.5, 0.75, 1, 1.5, 2, 3, 5, 8];
/** Lockers of a depot, all together 4,800. */
const LOCKERS = 800;
const OPENINGS_PER_SECOND = 6;

interface Series {
  labels: string;
  buckets: number[];
  sum: number;
  count: number;
  last: string;
  /** When it was first counted, Unix seconds. */
  created: number;
}

const series = new Map<string, Series>();

function open(depot: string, kind: string, locker: number): void {
  const seconds = 0.9 * Math.exp(0.45 * normal(Math.random));
  const labels = [
    `depot="${depot}"`,
    `tool_kind="${kind}"`,
    ...(firmware === "3.2" ? [`locker_id="${locker}"`] : []),
  ].join();
  let one = series.get(labels);
  if (!one) {
    one = { labels, buckets: BOUNDS.map(() => 0), sum: 0, count: 0, last: "", created: Date.now() / 1000 };
    series.set(labels, one);
  }
  BOUNDS.forEach((bound, i) => {
    if (seconds <= bound) one.buckets[i]++;
  });
  one.sum += seconds;
  one.count++;
  const trace = Array.from({ length: 32 }, () => Math.floor(Math.random() * 16).toString(16)).join("");
  one.last = ` # {trace_id="${trace}"} ${seconds.toFixed(4)} ${(Date.now() / 1000).toFixed(3)}`;
}

function exposition(): string {
  const lines = [
    "# TYPE target info",
    `target_info{service_version="${firmware}",deployment_environment_name="${ENVIRONMENT}"} 1`,
    "# TYPE locker_open_duration_seconds histogram",
    "# UNIT locker_open_duration_seconds seconds",
    "# HELP locker_open_duration_seconds From the request until the door is open",
  ];
  for (const { labels, buckets, sum, count, last, created } of series.values()) {
    const name = "locker_open_duration_seconds";
    BOUNDS.forEach((bound, i) => {
      lines.push(`${name}_bucket{${labels},le="${bound}"} ${buckets[i]}`);
    });
    lines.push(
      `${name}_bucket{${labels},le="+Inf"} ${count}${firmware === "3.2" ? "" : last}`,
      `${name}_count{${labels}} ${count}`,
      `${name}_sum{${labels}} ${sum}`,
      `${name}_created{${labels}} ${created}`,
    );
  }
  lines.push("# TYPE locker_doors_open gauge", "# HELP locker_doors_open Doors that stand open");
  for (const { name } of DEPOTS) lines.push(`locker_doors_open{depot="${name}"} ${Math.floor(Math.random() * 4)}`);
  lines.push("# TYPE locker_battery_ratio gauge", "# UNIT locker_battery_ratio ratio");
  for (const { name } of DEPOTS)
    lines.push(`locker_battery_ratio{depot="${name}"} ${(0.7 + Math.random() * 0.02).toFixed(4)}`);
  return `${lines.join("\n")}\n# EOF\n`;
}

setInterval(() => {
  for (let i = 0; i < OPENINGS_PER_SECOND / 2; i++) {
    let pick = Math.random();
    const depot = DEPOTS.find(({ weight }) => {
      pick -= weight;
      return pick <= 0;
    });
    const kind = KINDS[Math.floor(Math.random() * KINDS.length)];
    open((depot ?? DEPOTS[0]).name, kind, 1 + Math.floor(Math.random() * LOCKERS));
  }
}, 500);

http
  .createServer((request, response) => {
    if (request.url !== "/metrics") return response.writeHead(404).end();
    response.writeHead(200, { "Content-Type": "application/openmetrics-text; version=1.0.0; charset=utf-8" });
    response.end(exposition());
  })
  .listen(Number(port), "127.0.0.1", () => process.send?.({ ready: true }));

process.on("SIGTERM", () => process.exit(0));
process.on("SIGINT", () => process.exit(0));
process.on("disconnect", () => process.exit(0));

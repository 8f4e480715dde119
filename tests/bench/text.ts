import { ExpositionReader } from "../../src/core/openmetrics/read";
import { alternate, note, perSecond } from "./measure";

const LINES = 200_000;

/** An exposition as services write it: counters, gauges and histograms with a few labels. */
function exposition(): string {
  const lines: string[] = [];
  for (let i = 0; lines.length < LINES; i++) {
    const labels = `depot="Brindle",tool_kind="powered",route="/loans/{id}/${i}"`;
    lines.push(
      `# TYPE calls_${i} counter`,
      ...[200, 201, 404, 500].map((code) => `calls_${i}_total{${labels},code="${code}"} ${i * 37 + code}`),
    );
    lines.push(`# TYPE wait_${i}_seconds histogram`);
    for (const le of ["0.005", "0.01", "0.025", "0.05", "0.1", "0.25", "0.5", "1", "2.5", "+Inf"])
      lines.push(`wait_${i}_seconds_bucket{${labels},le="${le}"} ${i + le.length}`);
    lines.push(`wait_${i}_seconds_sum{${labels}} ${i * 0.731}`, `wait_${i}_seconds_count{${labels}} ${i + 5}`);
    lines.push(`# TYPE memory_${i}_bytes gauge`, `memory_${i}_bytes{${labels}} ${i * 1.5e6}`);
  }
  return `${lines.slice(0, LINES).join("\n")}\n# EOF\n`;
}

/** A consumer that only adds the values up. */
const seen = { sum: 0 };

/** The plain way: split into lines, then two regular expressions. */
function splitAndMatch(text: string): void {
  for (const line of text.split("\n")) {
    if (line === "" || line.startsWith("#")) continue;
    const match = /^([a-zA-Z_:][\w:]*)(?:\{(.*)\})?\s+(\S+)(?:\s+(\S+))?$/.exec(line);
    if (!match) throw new Error(line);
    const labels: Record<string, string> = {};
    for (const [, name, value] of (match[2] ?? "").matchAll(/(\w+)="((?:[^"\\]|\\.)*)"/g))
      labels[name] = value.replace(/\\(["\\n])/g, (_, c) => (c === "n" ? "\n" : c));
    const sample = { name: match[1], labels, value: Number(match[3]), time: Number(match[4] ?? Number.NaN) };
    seen.sum += sample.value;
  }
}

function read(text: string): void {
  const reader = new ExpositionReader(
    "openmetrics",
    ({ samples }) => {
      for (const { value } of samples) seen.sum += value;
    },
    ({ message }) => {
      throw new Error(message);
    },
  );
  reader.feed(text);
  reader.end();
}

/** Reading OpenMetrics text, family by family, against splitting it and matching each line. */
export async function benchText(): Promise<void> {
  // As it comes from a socket: one flat string.
  const text = Buffer.from(exposition()).toString();
  const [ours, theirs] = await alternate(
    [
      { name: "ours", run: () => read(text) },
      { name: "split and match", run: () => splitAndMatch(text) },
    ],
    9,
  );
  note(
    "read OpenMetrics text (lines)",
    "split and regular expressions",
    perSecond(LINES, ours.ms),
    perSecond(LINES, theirs.ms),
    theirs.ms / ours.ms,
    "≥ 500 k/s",
  );
}

import { Readable as Stream } from "node:stream";
import { setTimeout as sleep } from "node:timers/promises";
import { Command, InvalidArgumentError, Option } from "commander";
import { type CsvError, parse } from "csv-parse";
import { outgoing } from "@/core/otlp/outgoing";
import { metricsRequest } from "@/core/otlp/writeJson";
import { Gathering } from "@/core/send/gather";
import {
  type Defaults,
  HAND_KINDS,
  type HandPoint,
  HandPointError,
  numberOf,
  pointFromJson,
  pointFromRow,
} from "@/core/send/handPoint";
import { DURATIONS } from "@/core/window/lengths";
import { type Intake, intakeOf, Refused, resourceOf, type SenderOptions, senderOptions } from "./intake";
import { Problems } from "./problems";
import { linesOf, openSource, type Source } from "./source";
import { counted, say, UserError } from "./userError";

interface SendOptions extends SenderOptions {
  name?: string;
  kind?: HandPoint["kind"];
  value?: number[];
  unit?: string;
  attr: Record<string, string>;
  bounds?: number[];
  every?: number;
  time?: string;
  format: "auto" | "json" | "csv";
}

/** Points that go out in one request. */
const TOGETHER = 2000;

function attribute(text: string, before: Record<string, string>): Record<string, string> {
  const at = text.indexOf("=");
  if (at < 1) throw new InvalidArgumentError("an attribute is written as name=value, such as depot=Brindle.");
  return { ...before, [text.slice(0, at)]: text.slice(at + 1) };
}

function number(text: string): number {
  try {
    return numberOf(text);
  } catch {
    throw new InvalidArgumentError(`"${text}" is no number.`);
  }
}

function boundsOf(text: string): number[] {
  const bounds = text.split(",").map(number);
  if (bounds.some((bound, i) => i > 0 && bound <= bounds[i - 1]))
    throw new InvalidArgumentError("bounds rise, such as 0.1,0.5,1.");
  return bounds;
}

function durationOf(text: string): number {
  const [, amount, unit] = /^(\d+(?:\.\d+)?)([a-z]+)$/.exec(text) ?? [];
  const ms = amount && Object.hasOwn(DURATIONS, unit) ? Number(amount) * DURATIONS[unit] : 0;
  if (ms >= 100) return ms;
  throw new InvalidArgumentError("a duration such as 5s or 1m is expected, at least 100ms.");
}

export function sendCommand(): Command {
  const command = new Command("send")
    .description("Sends a point, or one for each line of a file: JSON lines, or CSV with a head.")
    .argument("[file]", 'a file of points, or "-" for standard input')
    .option("--name <name>", "the metric, such as loan.reserved")
    .addOption(new Option("--kind <kind>", "what it is").choices(HAND_KINDS))
    .option(
      "--value <number>",
      "its value; more than once for several measurements of a histogram",
      (text, before?: number[]) => [...(before ?? []), number(text)],
    )
    .option("--unit <code>", "its unit as a UCUM code, such as s, By, {loan}")
    .option("--attr <name=value>", "an attribute; as often as needed", attribute, {})
    .option("--time <time>", "when: Unix milliseconds or RFC 3339 (now, where it is left out)")
    .option("--bounds <list>", "bucket bounds of a histogram, such as 0.1,0.5,1", boundsOf)
    .option("--every <duration>", "sends it again and again, until Ctrl-C, such as 5s", durationOf)
    .addOption(new Option("--format <format>", "of the file").choices(["auto", "json", "csv"]).default("auto"));
  for (const option of senderOptions()) command.addOption(option);
  return command.action((file: string | undefined, options: SendOptions) =>
    file === undefined ? sendOne(options) : sendFile(file, options),
  );
}

/** @returns points that were refused */
async function deliver(gathering: Gathering, intake: Intake, about: string): Promise<number> {
  const { metrics, naming } = outgoing(gathering.take());
  try {
    const { rejected, message } = await intake.send(metricsRequest(metrics, naming));
    if (message !== "") say(`${about}${message}`);
    return rejected;
  } catch (error) {
    if (error instanceof Refused) throw new UserError(error.message);
    throw error;
  }
}

async function sendOne(options: SendOptions): Promise<void> {
  const { every, name, kind, value, unit, attr, time } = options;
  const intake = intakeOf(options);
  const gathering = new Gathering(resourceOf(options), options.bounds);
  let point: HandPoint;
  try {
    const values = value && value.length === 1 && kind !== "histogram" ? value[0] : value;
    point = pointFromJson(JSON.stringify({ name, kind, value: values, unit, attributes: attr, time }), {});
  } catch (error) {
    if (error instanceof HandPointError) throw new UserError(`${error.message} (--name, --kind, --value, --attr)`);
    throw error;
  }
  for (let next = Date.now(); ; ) {
    gathering.add(point, Date.now());
    const refused = await deliver(gathering, intake, "");
    if (refused > 0 && !every) throw new UserError("the point was refused");
    if (refused === 0)
      say(`sent ${point.name} to ${intake.base} as ${options.service}, ${new Date().toLocaleTimeString("en-GB")}`);
    if (!every) return;
    next = Math.max(next + every, Date.now());
    await sleep(next - Date.now());
  }
}

/** A point, or why a line is none. */
async function* pointsOf(source: Source, { format, ...options }: SendOptions, problems: Problems) {
  const { name, kind, unit, attr } = options;
  const defaults: Defaults = { name, kind, unit, attributes: attr };
  const table = format === "csv" || (format === "auto" && !source.first.trimStart().startsWith("{"));
  for await (const { number: at, read } of table ? rowsOf(source, problems) : jsonOf(source)) {
    try {
      yield read(defaults);
    } catch (error) {
      if (!(error instanceof HandPointError)) throw error;
      problems.add(`line ${at}`, error.message);
    }
  }
}

/** A line that can be read as a point. */
interface Readable {
  number: number;
  read: (defaults: Defaults) => HandPoint;
}

async function* jsonOf(source: Source): AsyncIterable<Readable> {
  for await (const { text, number } of linesOf(source)) yield { number, read: (known) => pointFromJson(text, known) };
}

/** The rows of a table with a head (RFC 4180). */
async function* rowsOf(source: Source, problems: Problems): AsyncIterable<Readable> {
  const parser = parse({ bom: true, info: true, relax_column_count: true, skip_records_with_error: true, trim: true });
  parser.on("skip", ({ message, lines }: CsvError & { lines: number }) => problems.add(`line ${lines}`, message));
  Stream.from(source.blocks).pipe(parser);
  let head: string[] | null = null;
  for await (const { record, info } of parser as AsyncIterable<{ record: string[]; info: { lines: number } }>) {
    if (head === null) head = record;
    else {
      const columns = head;
      yield { number: info.lines, read: (known) => pointFromRow(rowOf(columns, record), known) };
    }
  }
}

function rowOf(head: readonly string[], cells: readonly string[]): Record<string, string> {
  if (cells.length !== head.length) throw new HandPointError(`${cells.length} cells, the head has ${head.length}`);
  return Object.fromEntries(head.map((column, i) => [column, cells[i]]));
}

async function sendFile(file: string, options: SendOptions): Promise<void> {
  if (options.every) throw new UserError("--every repeats one point; it does not go with a file");
  if (options.value) throw new UserError("--value is for one point; in a file, each line has its own");
  const intake = intakeOf(options);
  const gathering = new Gathering(resourceOf(options), options.bounds);
  const problems = new Problems();
  const source = await openSource(file);
  let sent = 0;
  let refused = 0;
  let lines = 0;
  let time = 0;
  const flush = async () => {
    sent += gathering.size;
    refused += await deliver(gathering, intake, "");
  };
  for await (const point of pointsOf(source, options, problems)) {
    // Points without a time must not meet those of the request before.
    if (gathering.size === 0) time = Math.max(Date.now(), time + 1);
    gathering.add(point, time);
    lines++;
    if (gathering.size >= TOGETHER) await flush();
  }
  if (gathering.size > 0) await flush();
  source.done();
  say(`${counted(sent - refused, "point")} sent to ${intake.base} as ${options.service}`);
  if (lines > sent)
    say(
      `${counted(lines, "line")} became ${counted(sent, "point")}: those of one series and time are put together (counters add up, of gauges the last counts)`,
    );
  if (problems.count > 0) say(`${counted(problems.count, "line was", "lines were")} not understood`);
  if (problems.count > 0 || refused > 0) process.exitCode = 1;
}

import { open } from "node:fs/promises";
import { Command, Option } from "commander";
import { importExposition } from "./importExposition";
import { importLines } from "./importLines";
import { intakeOf, resourceOf, type SenderOptions, senderOptions } from "./intake";
import { Problems } from "./problems";
import { openSource, type Source } from "./source";
import { counted, say } from "./userError";

const FORMATS = ["auto", "otlp", "openmetrics", "plain"] as const;
type Format = (typeof FORMATS)[number];

export function importCommand(): Command {
  const command = new Command("import")
    .description("Reads a file of points in: OTLP JSON lines, OpenMetrics text, or its plain-text predecessor.")
    .argument("<file>", 'a file, unpacked where it ends in .gz, or "-" for standard input')
    .addOption(new Option("--format <format>", "of the file").choices(FORMATS).default("auto"));
  for (const option of senderOptions()) command.addOption(option);
  return command.action(run);
}

/** The format of a text, by how it begins and, where that can be looked at, ends: only one of the two says where. */
async function formatOf({ first, name }: Source): Promise<Exclude<Format, "auto">> {
  if (first.trimStart().startsWith("{")) return "otlp";
  if (name === "standard input" || name.endsWith(".gz")) return "openmetrics";
  const file = await open(name);
  try {
    const { size } = await file.stat();
    const last = Buffer.alloc(16);
    await file.read(last, 0, 16, Math.max(0, size - 16));
    return last.toString("utf8").includes("# EOF") ? "openmetrics" : "plain";
  } finally {
    await file.close();
  }
}

async function run(name: string, options: SenderOptions & { format: Format }): Promise<void> {
  const intake = intakeOf(options);
  const source = await openSource(name);
  const format = options.format === "auto" ? await formatOf(source) : options.format;
  const problems = new Problems();
  const { points, refused } =
    format === "otlp"
      ? await importLines(source, intake, problems)
      : await importExposition(source, format, resourceOf(options), intake, problems);
  source.done();
  say(`${counted(points, "point")} of ${source.name} sent to ${intake.base}`);
  if (refused > 0) say(`${counted(refused, "point was", "points were")} refused`);
  if (problems.count > 0)
    say(`${counted(problems.count, "place")} of the file ${problems.count === 1 ? "is" : "are"} wrong`);
  if (refused > 0 || problems.count > 0) process.exitCode = 1;
}

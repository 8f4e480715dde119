import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { Command, Option } from "commander";
import {
  parseSheetFile,
  printSheetFile,
  problemsOf,
  type SheetFile,
  SheetFileError,
  unknownMetrics,
} from "@/core/sheet/file";
import type { Sheet } from "@/core/sheet/sheet";
import { type KeyOptions, keyOf, keyOption } from "./key";
import { Pages } from "./pages";
import { counted, say, UserError } from "./userError";

/** `npx tin-ladder sheets`: sheets that live in a repository, a file each. */

interface Options extends KeyOptions {
  at: string;
  note?: string;
}

/** The files of a folder, each with its sheets. @throws UserError for one that is none */
function filesIn(folder: string): { file: string; sheets: SheetFile["sheets"] }[] {
  let names: string[];
  try {
    names = readdirSync(folder).filter((name) => name.endsWith(".json"));
  } catch (error) {
    throw new UserError(`${folder} cannot be read: ${(error as Error).message}`);
  }
  if (names.length === 0) throw new UserError(`${folder} has no file that ends with .json`);
  return names.sort().map((name) => {
    const file = path.join(folder, name);
    try {
      return { file, sheets: parseSheetFile(readFileSync(file, "utf8")) };
    } catch (error) {
      if (error instanceof SheetFileError) throw new UserError(`${file}: ${error.message}`);
      throw error;
    }
  });
}

async function pull(folder: string, { at, ...options }: Options): Promise<void> {
  const pages = new Pages(at, keyOf(options));
  const list = await pages.ask<{ sheets: { id: string; deletedAt: number | null }[] }>("GET", "sheets");
  const there = (list?.sheets ?? []).filter(({ deletedAt }) => deletedAt === null);
  mkdirSync(folder, { recursive: true });
  for (const { id } of there) {
    const found = await pages.ask<{ sheet: Sheet }>("GET", `sheets/${id}`);
    if (found) writeFileSync(path.join(folder, `${id}.json`), printSheetFile([{ id, sheet: found.sheet }]));
  }
  say(`${counted(there.length, "sheet")} written to ${folder}`);
}

async function push(folder: string, { at, note = "from the repository", ...options }: Options): Promise<void> {
  const pages = new Pages(at, keyOf(options));
  const all = filesIn(folder).flatMap(({ sheets }) => sheets);
  const done = { made: 0, saved: 0, same: 0 };
  for (const { id, sheet } of all) {
    const before = await pages.ask<{ version: number }>("GET", `sheets/${id}`);
    if (!before) {
      await pages.ask("POST", "sheets", { id, sheet, note });
      done.made++;
      continue;
    }
    const after = await pages.ask<{ version: number }>("PUT", `sheets/${id}`, { sheet, note, based: null });
    if (after && after.version > before.version) done.saved++;
    else done.same++;
  }
  say(`${counted(done.made, "sheet")} made, ${done.saved} saved, ${done.same} as they were`);
}

async function check(folder: string, { at, ...options }: Options): Promise<void> {
  const pages = new Pages(at, keyOf(options));
  const files = filesIn(folder);
  const known = await pages.ask<{ metrics: { name: string }[] }>("GET", "catalogue");
  const arrived = new Set((known?.metrics ?? []).map(({ name }) => name));
  let wrong = 0;
  for (const { file, sheets } of files)
    for (const { id, sheet } of sheets) {
      const problems = [
        ...problemsOf(sheet),
        ...unknownMetrics([sheet], arrived).map((name) => `no metric named ${name} has arrived`),
      ];
      for (const problem of problems) say(`${file}: ${id}: ${problem}`);
      wrong += problems.length;
    }
  if (wrong > 0) throw new UserError(counted(wrong, "thing is wrong", "things are wrong"));
  say(`${counted(files.length, "file")}: nothing wrong`);
}

function task(
  name: string,
  does: string,
  scope: string,
  run: (folder: string, options: Options) => Promise<void>,
): Command {
  return new Command(name)
    .description(does)
    .argument("<folder>", "where the files stand, one for each sheet")
    .addOption(new Option("--at <address>", "Tin Ladder's pages").env("TIN_ADDRESS").default("http://127.0.0.1:4300"))
    .addOption(keyOption(scope))
    .action(run);
}

export function sheetsCommand(): Command {
  return new Command("sheets")
    .description(
      "Keeps sheets in a repository: writes them into files, saves them from there, says what is wrong with them.",
    )
    .addCommand(task("pull", "Writes every sheet into a file.", "read", pull))
    .addCommand(
      task("push", "Saves the sheets of the files, each as its next version.", "manage", push).option(
        "--note <text>",
        "what changed, in a few words",
      ),
    )
    .addCommand(
      task("check", "Says what of the files cannot be read, and which metrics do not arrive.", "read", check),
    );
}

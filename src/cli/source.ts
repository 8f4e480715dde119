import { createReadStream, statSync } from "node:fs";
import { Readable } from "node:stream";
import { createGunzip } from "node:zlib";
import { Presets, SingleBar } from "cli-progress";
import { UserError } from "./userError";

/** A file, or standard input as "-", with a bar that shows how far it is read. Files that end in .gz are unpacked. */
export interface Source {
  /** Its text in blocks, the first of them included. */
  blocks: AsyncIterable<string>;
  /** Its first block; "" where it is empty. */
  first: string;
  name: string;
  /** Takes the bar away. */
  done: () => void;
}

/** Shorter files are read before a bar could be seen. */
const WORTH_A_BAR = 4 * 1024 * 1024;

/** @throws Told where the file cannot be read */
export async function openSource(name: string): Promise<Source> {
  if (name === "-")
    return { ...(await begun(process.stdin.setEncoding("utf8"))), name: "standard input", done: () => {} };
  let size: number;
  try {
    const about = statSync(name);
    if (about.isDirectory()) throw new UserError(`${name} is a folder; a file is expected`);
    size = about.size;
  } catch (error) {
    if (error instanceof UserError) throw error;
    throw new UserError(`${name} cannot be read: ${(error as NodeJS.ErrnoException).code}`);
  }
  const bar =
    size >= WORTH_A_BAR && process.stderr.isTTY
      ? new SingleBar(
          {
            format: "{bar} {percentage} %, {eta_formatted} left",
            etaBuffer: 50,
            clearOnComplete: true,
            hideCursor: true,
          },
          Presets.shades_classic,
        )
      : null;
  bar?.start(size, 0);
  const file = createReadStream(name, { highWaterMark: 1024 * 1024 });
  const counted = Readable.from(
    (async function* () {
      for await (const block of file) {
        bar?.increment((block as Buffer).length);
        yield block as Buffer;
      }
    })(),
  );
  const bytes = name.endsWith(".gz") ? counted.pipe(createGunzip()) : counted;
  return { ...(await begun(asText(bytes, name))), name, done: () => bar?.stop() };
}

async function begun(blocks: AsyncIterable<string>): Promise<Pick<Source, "blocks" | "first">> {
  const iterator = blocks[Symbol.asyncIterator]();
  const { value: first = "", done } = await iterator.next();
  const all = async function* () {
    if (first !== "") yield first;
    for (;;) {
      const next = done ? { done, value: "" } : await iterator.next();
      if (next.done) return;
      yield next.value;
    }
  };
  return { blocks: all(), first };
}

async function* asText(bytes: AsyncIterable<Buffer>, name: string): AsyncIterable<string> {
  const decoder = new TextDecoder();
  try {
    for await (const block of bytes) yield decoder.decode(block, { stream: true });
  } catch (error) {
    throw new UserError(`${name} cannot be read: ${(error as Error).message}`);
  }
  const rest = decoder.decode();
  if (rest !== "") yield rest;
}

/** A line of a text with its number, from 1. */
export interface Line {
  text: string;
  number: number;
}

const LONGEST_LINE = 64 * 1024 * 1024;

/** The lines of a text that are not empty. @throws Told where one is longer than any request may be */
export async function* linesOf({ blocks, name }: Pick<Source, "blocks" | "name">): AsyncIterable<Line> {
  let rest = "";
  let number = 0;
  for await (const block of blocks) {
    const lines = (rest + block).split("\n");
    rest = lines.pop()!;
    if (rest.length > LONGEST_LINE)
      throw new UserError(`${name}: line ${number + lines.length + 1} is longer than 64 MiB; is this a file of lines?`);
    for (const text of lines) {
      number++;
      if (text.trim() !== "") yield { text, number };
    }
  }
  if (rest.trim() !== "") yield { text: rest, number: number + 1 };
}

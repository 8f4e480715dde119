import path from "node:path";
import Piscina from "piscina";
import { BusyError } from "./faults";

/** A file that cannot be read, and why. */
export class FileError extends Error {
  override name = "FileError";
}

/** How long reading a file may take, ms, and what it may hold, MiB. */
const MAX_TIME = 5000;
const MAX_HEAP_MB = 256;
const MAX_WAITING = 8;

const kept = globalThis as typeof globalThis & { tinLadderFiles?: Piscina };

function readers(): Piscina {
  kept.tinLadderFiles ??= new Piscina({
    filename: path.join(/* turbopackIgnore: true */ process.cwd(), ".build", "file-worker.js"),
    minThreads: 0,
    maxThreads: 1,
    maxQueue: MAX_WAITING,
    idleTimeout: 10_000,
    resourceLimits: { maxOldGenerationSizeMb: MAX_HEAP_MB, stackSizeMb: 4 },
  });
  return kept.tinLadderFiles;
}

/**
 * The content of a file from a person, YAML or JSON.
 *
 * @throws FileError with what is wrong in words
 */
export async function readFileOf(text: string): Promise<unknown> {
  try {
    return await readers().run(text, { signal: AbortSignal.timeout(MAX_TIME) });
  } catch (error) {
    const { name, message, code } = error as NodeJS.ErrnoException;
    if (name === "AbortError" || name === "TimeoutError")
      throw new FileError(`reading it takes more than ${MAX_TIME / 1000} s: it has too many parts for one file`);
    if (code === "ERR_WORKER_OUT_OF_MEMORY" || name === "RangeError")
      throw new FileError("it is nested too deeply, or too large, to be read");
    if (message.includes("Task queue is at limit")) throw new BusyError(message);
    throw new FileError(`neither JSON nor YAML: ${message}`);
  }
}

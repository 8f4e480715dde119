import { mkdir, open, readdir, rename, rm, stat } from "node:fs/promises";
import path from "node:path";
import type { Outgoing } from "@/core/otlp/batch/batch";
import type { QueuedExporter } from "@/core/pipeline/exporters";
import { setting } from "@/core/settings/environment";
import { requestOf } from "./request";

/** Files of OTLP/JSON lines: one that is written to, and those that were full before it. */

type FileExporter = Extract<QueuedExporter, { type: "file" }>;

/** Where files go. */
export function exportFolder(): string {
  return path.resolve(setting("TIN_EXPORT_DIR"));
}

async function sizeOf(file: string): Promise<number> {
  try {
    return (await stat(file)).size;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return 0;
    throw error;
  }
}

/** Gives the full file a name with its time and deletes the oldest of those there are too many of. */
async function rotate(folder: string, { id, files }: FileExporter, now: number): Promise<void> {
  const stamp = new Date(now).toISOString().replace(/[:.]/g, "-");
  await rename(path.join(folder, `${id}.jsonl`), path.join(folder, `${id}-${stamp}.jsonl`));
  const full = (await readdir(folder))
    .filter((name) => name.startsWith(`${id}-`) && /-\d{4}-\d\d-\d\dT[\d-]+Z\.jsonl$/.test(name))
    .filter((name) => name.length === `${id}-${stamp}.jsonl`.length)
    .sort();
  for (const name of full.slice(0, Math.max(0, full.length - (files - 1)))) await rm(path.join(folder, name));
}

/** Appends content as one line, on disk for good before it returns. */
export async function appendToFile(exporter: FileExporter, content: Outgoing, now = Date.now()): Promise<void> {
  const folder = exportFolder();
  await mkdir(folder, { recursive: true });
  const file = path.join(folder, `${exporter.id}.jsonl`);
  const line = `${JSON.stringify(requestOf(content))}\n`;
  const size = await sizeOf(file);
  if (size > 0 && size + Buffer.byteLength(line) > exporter.size * 1e6) await rotate(folder, exporter, now);
  const handle = await open(file, "a");
  try {
    await handle.write(line);
    await handle.sync();
  } finally {
    await handle.close();
  }
}

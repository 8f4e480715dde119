import type { ChildProcess } from "node:child_process";
import { readFileSync } from "node:fs";

/** Resident memory of a process, MiB; NaN where it is gone. */
export function memoryOf(child: ChildProcess): number {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, "utf8"))![1]) / 1024;
  } catch {
    return Number.NaN;
  }
}

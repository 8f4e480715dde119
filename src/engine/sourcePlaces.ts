import { existsSync, readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { FlattenMap, originalPositionFor, type TraceMap } from "@jridgewell/trace-mapping";

/**
 * Where in the sources a fault comes from. Maps are read when there is a fault to tell: kept at hand, they take more memory
 * than all of the pages.
 */

/** A place in a stack: a file of ours, line and column. */
const PLACE = /((?:file:\/\/)?\/[^\s():]+\.[cm]?js):(\d+):(\d+)/g;

function mapOf(file: string): TraceMap | null {
  const map = `${file}.map`;
  return existsSync(map) ? new FlattenMap(JSON.parse(readFileSync(map, "utf8")), map) : null;
}

/** How long maps stay at hand after a fault, ms: where one comes, others do. */
const KEPT = 60_000;

const maps = new Map<string, TraceMap | null>();

/** A stack with the places of the sources, where these are known; without, it stays as it is. */
export function withSourcePlaces(stack: string): string {
  if (maps.size === 0) setTimeout(() => maps.clear(), KEPT).unref();
  return stack.replace(PLACE, (written: string, address: string, line: string, column: string) => {
    try {
      const file = address.startsWith("file:") ? fileURLToPath(address) : address;
      if (!maps.has(file)) maps.set(file, mapOf(file));
      const map = maps.get(file);
      const found = map && originalPositionFor(map, { line: Number(line), column: Number(column) - 1 });
      return found?.source ? `${found.source}:${found.line}:${found.column + 1}` : written;
    } catch {
      // A map that cannot be read is no reason to lose the fault.
      return written;
    }
  });
}

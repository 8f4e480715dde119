import { Arrivals, type DryRun, type Question } from "@/core/draft/dryRun";
import type { LogRecord } from "@/core/log/model";
import type { Span } from "@/core/span/model";

/** Tries drafts on arrivals, beside the page. */

/** Arrivals, or a draft to try on them. */
export type ToWorker =
  | { type: "arrivals"; body: ArrayBuffer; spans: Span[]; records: LogRecord[] }
  | { type: "draft"; asked: number; question: Question };

export type FromWorker = { asked: number; dryRun: DryRun } | { asked: number; problem: string };

let arrivals = new Arrivals([]);

/** Blocks out of one body: each after its size. */
function split(body: ArrayBuffer): Uint8Array[] {
  const view = new DataView(body);
  const found: Uint8Array[] = [];
  for (let at = 0; at < body.byteLength; ) {
    const size = view.getUint32(at, true);
    found.push(new Uint8Array(body, at + 4, size));
    at += 4 + size;
  }
  return found;
}

const scope = self as unknown as { postMessage: (message: FromWorker) => void };

self.onmessage = ({ data }: MessageEvent<ToWorker>) => {
  if (data.type === "arrivals") {
    arrivals = new Arrivals(split(data.body), data.spans, data.records);
    return;
  }
  const { asked, question } = data;
  try {
    scope.postMessage({ asked, dryRun: arrivals.dryRunOf(question, () => performance.now()) });
  } catch (error) {
    scope.postMessage({ asked, problem: (error as Error).message });
  }
};

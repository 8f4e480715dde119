import { TooMuchError } from "@/core/reading/distribution";

/** What one answer may hold as JSON, bytes: more is nothing that a page or a program reads at once. */
const MAX_BYTES = 16 * 1024 * 1024;

const encoder = new TextEncoder();

/** An answer as JSON, made in the thread that worked it out. @throws TooMuchError */
export function encoded(value: unknown): Uint8Array {
  const bytes = encoder.encode(JSON.stringify(value));
  if (bytes.length <= MAX_BYTES) return bytes;
  throw new TooMuchError(
    `the answer has ${(bytes.length / 1024 / 1024).toFixed(0)} MiB, at most ${MAX_BYTES / 1024 / 1024} are given at once: add \`top 20\`, a condition or longer steps`,
  );
}

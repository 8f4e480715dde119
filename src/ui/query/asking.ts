import type { Contract } from "@/core/api/calls";
import { ask, type Result } from "./api";
import type { Question } from "./questions";

/** A question as the cache of answers takes it, asked through the API. */
export function asking<K extends keyof Contract>({ queryKey, call, input }: Question<K>) {
  return {
    queryKey,
    queryFn: ({ signal }: { signal: AbortSignal }): Promise<Result<Contract[K]>> => ask(call, input, signal),
  };
}

import type { CatalogueEntry } from "@/core/api/instruments";

/** What kind of instrument a metric comes from, in a word or two. */
export function kindWord({
  kind,
  monotonic,
  contract,
}: Pick<CatalogueEntry, "kind" | "monotonic" | "contract">): string {
  if (kind === "") return contract === null ? "" : "not seen yet";
  if (kind === "sum") return monotonic ? "counter" : "up-down counter";
  return kind === "exponential" ? "exponential histogram" : kind;
}

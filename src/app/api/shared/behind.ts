import { createHash } from "node:crypto";
import type { Chosen } from "@/core/sheet/chosen";
import type { Pick } from "@/core/sheet/pick";
import { picksFor, picksInOrder } from "@/core/sheet/pickText";
import { type Asking, runJob } from "@/engine/pool";
import { sheetBehind } from "@/store/sheets/links";
import { database } from "../database";
import { Refusal, resultOf } from "../serve";

/** What a link shows. @throws Refusal 410 */
export async function behind(link: string): Promise<NonNullable<Awaited<ReturnType<typeof sheetBehind>>>> {
  const found = await sheetBehind(database(), link);
  if (found) return found;
  throw new Refusal(410, {
    title: "This link has ended",
    detail: "it was taken back, or its time is over; ask whoever gave it to you for another",
  });
}

/** How long one reading behind a link may take, ms. */
const DEADLINE = 10_000;

/** Who comes by a link: all of them have one share of the threads together. */
export function askingBy(link: string, { signal }: Request): Asking {
  return { caller: `link ${createHash("sha256").update(link).digest("base64url")}`, signal, deadline: DEADLINE };
}

const refused = (detail: string) => new Refusal(403, { title: "Not to be picked", detail });

/**
 * What is chosen of the picks of a sheet, if the sheet offers it: a link shows no more than its sheet does.
 *
 * @throws Refusal 403
 */
export async function offered(picks: readonly Pick[], asked: Chosen, asking: Asking): Promise<Chosen> {
  const chosen: Record<string, readonly string[]> = {};
  for (const pick of picksInOrder(picks)) {
    const { name } = pick;
    const values = Object.hasOwn(asked, name) ? asked[name] : [];
    if (values.length === 0 && !pick.all && pick.source.of !== "text")
      throw refused(`${pick.words} has to be one of those that the sheet offers`);
    if (values.length > 1 && !pick.many) throw refused(`${pick.words} is one at a time`);
    if (values.length > 0 && pick.source.of !== "text") {
      const there = new Set(
        resultOf(
          await runJob({ type: "pick values", source: pick.source, picks: picksFor(pick, chosen) }, asking),
        ).values.map(({ value }) => value),
      );
      const other = values.find((value) => !there.has(value) && !pick.preset.includes(value));
      if (other !== undefined) throw refused(`the sheet does not offer ${other} for ${pick.words}`);
    }
    chosen[name] = values;
  }
  return chosen;
}

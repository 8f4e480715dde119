import { sheetBehind } from "@/store/sheets/links";
import { database } from "../database";
import { Refusal } from "../serve";

/** What a link shows. @throws Refusal 410 */
export async function behind(link: string): Promise<NonNullable<Awaited<ReturnType<typeof sheetBehind>>>> {
  const found = await sheetBehind(database(), link);
  if (found) return found;
  throw new Refusal(410, {
    title: "This link has ended",
    detail: "it was taken back, or its time is over; ask whoever gave it to you for another",
  });
}

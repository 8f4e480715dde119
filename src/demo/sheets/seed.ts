import type pg from "pg";
import { sheet as sheetSchema } from "@/core/sheet/sheet";
import { createSheet } from "@/store/sheets/sheets";
import { DEMONSTRATION_SHEETS } from "./sheets";

/** Keeps the sheets of the demonstration, where none was ever kept. */
export async function keepSheets(pool: pg.Pool): Promise<void> {
  const { rows } = await pool.query("SELECT 1 FROM sheet LIMIT 1");
  if (rows.length > 0) return;
  for (const { id, sheet, who, note } of DEMONSTRATION_SHEETS)
    await createSheet(pool, { id, body: sheetSchema.parse(sheet), who, note });
}

import { ORIGIN_ATTRIBUTES } from "@/core/metric/labels";

/**
 * SQL for the value (jsonb) of an attribute of a series `s` with its resource `r`, as `labelOf` has it.
 *
 * @param name SQL for the attribute's name: a parameter or a column
 */
export function labelSql(name: string): string {
  const ofResource = `${name} IN (${ORIGIN_ATTRIBUTES.map((own) => `'${own}'`).join(", ")})`;
  return `CASE WHEN ${ofResource} THEN r.attributes -> ${name} ELSE coalesce(s.attributes -> ${name}, r.attributes -> ${name}) END`;
}

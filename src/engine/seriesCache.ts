import type pg from "pg";
import { labelsOf } from "@/core/metric/labels";
import type { Attributes } from "@/core/metric/model";

/** Bytes that attributes may take, as they are counted here: about what they take. */
const MAX_BYTES = 192 * 1024 * 1024;
const SERIES_BYTES = 200;
const ATTRIBUTE_BYTES = 80;

function bytesOf(attributes: Attributes): number {
  let bytes = SERIES_BYTES;
  for (const [name, value] of Object.entries(attributes))
    bytes += ATTRIBUTE_BYTES + name.length + (typeof value === "string" ? 2 * value.length : 8);
  return bytes;
}

/** Attributes of series by id; they never change, so what was read once stays. Oldest go first when it is full. */
export class SeriesCache {
  private readonly found = new Map<number, Attributes>();
  private bytes = 0;

  /** Resource and point attributes of each series in one. */
  async attributesOf(client: pg.PoolClient, ids: Iterable<number>): Promise<Map<number, Attributes>> {
    const result = new Map<number, Attributes>();
    const missing: number[] = [];
    for (const id of ids) {
      const known = this.found.get(id);
      if (known) result.set(id, known);
      else missing.push(id);
    }
    if (missing.length > 0) {
      const { rows } = await client.query<{ id: string; attributes: Attributes; resource: Attributes }>(
        `SELECT s.id, s.attributes, r.attributes AS resource FROM series s JOIN resource r ON r.id = s.resource_id
         WHERE s.id = ANY($1::bigint[])`,
        [missing],
      );
      for (const { id, attributes, resource } of rows) {
        const joined = labelsOf({ resource, attributes });
        if (!this.found.has(Number(id))) this.bytes += bytesOf(joined);
        this.found.set(Number(id), joined);
        result.set(Number(id), joined);
      }
      for (const [id, attributes] of this.found) {
        if (this.bytes <= MAX_BYTES) break;
        this.found.delete(id);
        this.bytes -= bytesOf(attributes);
      }
    }
    return result;
  }
}

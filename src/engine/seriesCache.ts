import type pg from "pg";
import type { Attributes } from "@/core/metric/model";

const MOST = 400_000;

/** Attributes of series by id; they never change, so what was read once stays. Oldest go first when it is full. */
export class SeriesCache {
  private readonly found = new Map<number, Attributes>();

  /** Resource and point attributes in one per series; the point's own win. */
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
        const joined = { ...resource, ...attributes };
        this.found.set(Number(id), joined);
        result.set(Number(id), joined);
      }
      for (const id of this.found.keys()) {
        if (this.found.size <= MOST) break;
        this.found.delete(id);
      }
    }
    return result;
  }
}

import type pg from "pg";
import type { ContractBody } from "@/core/contract/contract";
import type { Finding } from "@/core/contract/finding";
import { MINUTE } from "@/core/window/lengths";
import { RAW } from "../database/partitions";

/** A metric that is not seen for longer than its contract allows. */
export async function silentFinding(
  pool: pg.Pool,
  { name, silentAfter, service }: ContractBody,
  now: number,
): Promise<Finding[]> {
  if (silentAfter === null) return [];
  const { rows } = await pool.query<{ last: string | null }>(
    `SELECT max(s.t_to) AS last FROM strip s JOIN metric m ON m.id = s.metric_id WHERE m.name = $1 AND s.resolution = ${RAW}`,
    [name],
  );
  const last = rows[0].last === null ? null : Number(rows[0].last);
  if (last !== null && now - last <= silentAfter * MINUTE) return [];
  const since = last === null ? "never seen" : `not seen since ${new Date(last).toISOString()}`;
  return [
    {
      code: "silent",
      subject: "",
      service,
      environment: "",
      release: "",
      instance: "",
      detail: `${since}; the contract allows ${silentAfter} ${silentAfter === 1 ? "minute" : "minutes"} of silence`,
    },
  ];
}

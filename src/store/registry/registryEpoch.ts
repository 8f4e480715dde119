import type pg from "pg";

/**
 * How ids of the registry are taken away without anybody writing under one that is gone.
 *
 * Intakes remember the ids of series and resources. Whoever takes some away raises the epoch in the same transaction,
 * holding its row alone; whoever commits points holds the row shared and looks at the epoch first. So a commit is either
 * over before ids go, and then they are found in use and stay, or it sees the new epoch, writes nothing, asks for its
 * ids again, and begins anew.
 */

/** Ids were taken away since they were learnt. */
export class EpochError extends Error {
  override name = "EpochError";
  constructor(readonly epoch: number) {
    super(`ids of the registry were taken away meanwhile (epoch ${epoch})`);
  }
}

/** The epoch now; held as it is until the transaction of the connection ends. */
export async function holdEpoch(client: pg.PoolClient): Promise<number> {
  const { rows } = await client.query<{ epoch: number }>("SELECT epoch FROM registry_epoch FOR SHARE");
  return rows[0].epoch;
}

/** Begins another epoch, alone, inside the transaction of a connection: commits wait until it ends. */
export async function raiseEpoch(client: pg.PoolClient): Promise<void> {
  await client.query("UPDATE registry_epoch SET epoch = epoch + 1");
}

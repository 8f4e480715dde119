import { customType } from "drizzle-orm/pg-core";

/** Bytes. */
export const bytea = customType<{ data: Buffer }>({ dataType: () => "bytea" });

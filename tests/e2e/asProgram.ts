import { createHash, randomBytes } from "node:crypto";
import { readFileSync } from "node:fs";
import pg from "pg";

/**
 * Tests ask the API as a program with a key: whatever is fetched from it and says nothing about who asks shows the key,
 * which each system that a test starts is told of.
 */

process.env.TIN_TEST_KEY ??= `tin_${randomBytes(24).toString("base64url")}`;
const KEY = process.env.TIN_TEST_KEY;

/** Fetches as it is, without a key. */
export const fetchAsNobody = globalThis.fetch;

globalThis.fetch = (input, init) => {
  const address = new URL(input instanceof Request ? input.url : input);
  const headers = new Headers(init?.headers ?? (input instanceof Request ? input.headers : undefined));
  if (!address.pathname.startsWith("/api/") || headers.has("authorization") || headers.has("cookie"))
    return fetchAsNobody(input, init);
  headers.set("authorization", `Bearer ${KEY}`);
  return fetchAsNobody(input, { ...init, headers });
};

/** Tells a system of the key, in its database. */
export async function letIn(databaseUrl = process.env.DATABASE_URL): Promise<void> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    await client.query(
      `INSERT INTO access_key (name, scopes, environment, hash, hint, made_by, created_at)
       VALUES ('tests', '{read,manage}', '', $1, $2, 'tests', $3) ON CONFLICT (hash) DO NOTHING`,
      [createHash("sha256").update(KEY).digest(), KEY.slice(0, 9), Date.now()],
    );
  } finally {
    await client.end();
  }
}

/** The cookie of the owner's session, for what is asked as a browser would. */
export function ownersCookie(): string {
  const { cookies } = JSON.parse(readFileSync(process.env.TIN_TEST_SESSION!, "utf8")) as {
    cookies: { name: string; value: string }[];
  };
  return `${cookies[0].name}=${cookies[0].value}`;
}

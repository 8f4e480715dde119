import type pg from "pg";
import { Dictionary } from "../../src/core/otlp/dictionary";
import { decodeMetrics } from "../../src/core/otlp/protobuf";
import { Authenticator } from "../../src/intake/receive/authenticator";
import { createKey } from "../../src/store/access/keys";
import { request } from "./decode";
import { alternate, note, perSecond } from "./measure";

/** Keys that an installation may have. */
const KEYS = 1000;
const REQUESTS = 200;
const POINTS = 1000;

/** What a key check costs beside decoding alone, which is the least that a request costs. */
export async function benchKeys(pool: pg.Pool): Promise<void> {
  const making = { scopes: ["send" as const], environment: "production", days: null };
  let shown = "";
  for (let i = 0; i < KEYS; i++)
    shown = (await createKey(pool, { ...making, name: `key ${i}` }, { name: "bench", account: null })).text;
  const gate = new Authenticator(pool, true);
  const bytes = request("numbers");
  const dictionary = new Dictionary();
  const [checked, unchecked] = await alternate(
    [
      {
        name: "with a key",
        run: async () => {
          for (let i = 0; i < REQUESTS; i++) {
            await gate.environmentOf(`Bearer ${shown}`);
            decodeMetrics(bytes, dictionary);
          }
        },
      },
      {
        name: "without",
        run: async () => {
          for (let i = 0; i < REQUESTS; i++) {
            await null;
            decodeMetrics(bytes, dictionary);
          }
        },
      },
    ],
    9,
  );
  const points = REQUESTS * POINTS;
  note(
    `decode OTLP numbers, the request's key checked, one of ${KEYS}`,
    "without a key",
    perSecond(points, checked.ms),
    perSecond(points, unchecked.ms),
    unchecked.ms / checked.ms,
    "≥ 0.97×",
  );
}

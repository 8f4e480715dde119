import { randomInt } from "node:crypto";
import net from "node:net";

/** Below those that a system gives to who connects (from 32768 on, usually): none of them is taken before its server begins. */
const LEAST = 15_000;
const MOST = 32_000;

const given = new Set();

/** Whether nothing listens at a port of this machine. */
export function isFree(port) {
  return new Promise((resolve) => {
    const probe = net.createServer();
    probe.once("error", () => resolve(false));
    probe.listen(port, "127.0.0.1", () => probe.close(() => resolve(true)));
  });
}

/** A port that is free now, and that was given to nobody else here. @returns {Promise<number>} */
export async function freePort() {
  for (;;) {
    const port = randomInt(LEAST, MOST);
    if (given.has(port)) continue;
    given.add(port);
    if (await isFree(port)) return port;
  }
}

import { randomBytes } from "node:crypto";
import { writeFileSync } from "node:fs";
import { Stop } from "./say.mjs";
import { accessLink } from "./system.mjs";

/** The owner of a system that a test or a benchmark starts. */
export const OWNER = { name: "Ottilie Marsh", email: "ottilie@fern-anvil.example", password: "four words of slate" };

/**
 * Makes the first owner of a system.
 *
 * @param env what startSystem gave
 * @returns the cookie of their session, by name and value
 */
export async function makeOwner(env) {
  const web = `http://localhost:${env.TIN_WEB_PORT}`;
  const link = new URL(await accessLink("first-owner", env)).searchParams.get("link");
  const response = await fetch(`${web}/api/first-owner`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ link, ...OWNER }),
  });
  if (!response.ok) throw new Stop(`the first owner was not made: ${await response.text()}`);
  const [, name, value] = /^([^=]+)=([^;]+)/.exec(response.headers.getSetCookie()[0]);
  return { name, value };
}

/** Keeps a session in a file, as the browser of the tests reads it. */
export function keepSession(file, { name, value }) {
  const cookie = { name, value, path: "/", expires: -1, httpOnly: true, secure: false, sameSite: "Lax" };
  const cookies = ["localhost", "127.0.0.1"].map((domain) => ({ ...cookie, domain }));
  writeFileSync(file, JSON.stringify({ cookies, origins: [] }), { mode: 0o600 });
}

/** A key for the programs of a test: each of its systems is told of it. */
export function testKey() {
  return `tin_${randomBytes(24).toString("base64url")}`;
}

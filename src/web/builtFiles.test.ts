import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import http from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { gzipSync } from "node:zlib";
import { builtFiles } from "./builtFiles";

const CODE = "export const depots = 6;\n".repeat(100);

let folder: string;
let server: http.Server;
beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "built-"));
  mkdirSync(path.join(folder, "static", "chunks"), { recursive: true });
  writeFileSync(path.join(folder, "secret.js"), "secret");
  writeFileSync(path.join(folder, "static", "chunks", "a.js"), CODE);
  writeFileSync(path.join(folder, "static", "chunks", "a.js.gz"), gzipSync(CODE));
  writeFileSync(path.join(folder, "static", "chunks", "b.woff2"), "font");
  const handOut = builtFiles(folder);
  server = http.createServer((request, response) => {
    if (handOut(request, response)) return;
    response.statusCode = 418;
    response.end(`somebody else answers ${request.url}`);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true, force: true });
});

/** Asks for a path as it is written, which no client that tidies it would. */
function ask(place: string, headers: Record<string, string> = {}, method = "GET") {
  const { port } = server.address() as AddressInfo;
  return new Promise<{ status: number; headers: http.IncomingHttpHeaders; body: Buffer }>((resolve, reject) => {
    const request = http.request({ port, host: "127.0.0.1", path: place, method, headers }, (response) => {
      const parts: Buffer[] = [];
      response.on("data", (part: Buffer) => parts.push(part));
      response.on("end", () =>
        resolve({ status: response.statusCode!, headers: response.headers, body: Buffer.concat(parts) }),
      );
    });
    request.on("error", reject);
    request.end();
  });
}

test("a file goes out packed as it was built, to be kept for good, with the headers of every answer", async () => {
  const packed = await ask("/_next/static/chunks/a.js", { "Accept-Encoding": "gzip, br" });
  expect(packed.status).toBe(200);
  expect(packed.body).toEqual(gzipSync(CODE));
  expect(packed.headers).toMatchObject({
    "content-encoding": "gzip",
    "content-type": "text/javascript",
    "cache-control": "public,max-age=31536000,immutable",
    "x-content-type-options": "nosniff",
    "content-security-policy": "default-src 'self'; object-src 'none'; frame-ancestors 'none'",
    vary: "Accept-Encoding",
  });
  const plain = await ask("/_next/static/chunks/a.js?v=1");
  expect([plain.headers["content-encoding"], plain.body.toString()]).toEqual([undefined, CODE]);
  const etag = packed.headers.etag!;
  expect((await ask("/_next/static/chunks/a.js", { "Accept-Encoding": "gzip", "If-None-Match": etag })).status).toBe(
    304,
  );
  expect((await ask("/_next/static/chunks/b.woff2", { "Accept-Encoding": "gzip" })).body.toString()).toBe("font");
  expect((await ask("/_next/static/chunks/a.js", {}, "HEAD")).body).toHaveLength(0);
});

test("nothing else is handed out: what is outside, what is not there, and what is asked for by another name", async () => {
  for (const place of [
    "/_next/static/../secret.js",
    "/_next/static/%2e%2e/secret.js",
    "/_next/static/..%2fsecret.js",
    "/_next/static/chunks/../../secret.js",
    "/_next/static/chunks/gone.js",
    "/_next/static/chunks",
    "/_next/static/%zz",
    "/_next/static/",
    "/secret.js",
    "/",
  ]) {
    const { status, body } = await ask(place);
    expect([place, status, body.toString()]).toEqual([place, 418, `somebody else answers ${place}`]);
  }
  const file = "/_next/static/chunks/a.js";
  expect((await ask(file, { Host: "evil.example" })).status).toBe(418);
  expect((await ask(file, { Origin: "http://evil.example" })).status).toBe(418);
  expect((await ask(file, {}, "POST")).status).toBe(418);
});

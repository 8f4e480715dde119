import dns from "node:dns";
import http from "node:http";
import type { AddressInfo } from "node:net";
import { Batch } from "@/core/otlp/batch/batch";
import { networks } from "./address";
import { type OtlpExporter, sendOtlp } from "./export/request";
import { send } from "./outgoing";
import { fetchExposition } from "./scrape/fetch";

/** A name whose owner answers differently each time it is looked up: once with an address that may be asked, then with another. */

const NAME = "turncoat.fern-anvil.example";
const ALLOWED = networks("127.0.0.1/32");
const asked = { fine: 0, forbidden: 0 };
let port = 0;
let servers: http.Server[] = [];

const listen = (server: http.Server, at: number, address: string) =>
  new Promise<number>((resolve) => server.listen(at, address, () => resolve((server.address() as AddressInfo).port)));

beforeAll(async () => {
  const fine = http.createServer((request, response) => {
    asked.fine++;
    if (request.url === "/on") response.writeHead(302, { Location: `http://127.0.0.2:${port}/secrets` });
    else response.writeHead(200, { "Content-Type": "text/plain; version=0.0.4" });
    response.end("doors 1\n");
  });
  const forbidden = http.createServer((_, response) => {
    asked.forbidden++;
    response.end("secrets 1\n");
  });
  port = await listen(fine, 0, "127.0.0.1");
  await listen(forbidden, port, "127.0.0.2");
  servers = [fine, forbidden];
});
afterAll(() => {
  for (const server of servers) server.close();
});

let lookups = 0;
beforeEach(() => {
  lookups = 0;
  asked.fine = 0;
  const inTurn = () => ({ address: lookups++ % 2 === 0 ? "127.0.0.1" : "127.0.0.2", family: 4 });
  jest.spyOn(dns.promises, "lookup").mockImplementation((async () => [inTurn()]) as never);
  // What a connection would look up by itself.
  jest.spyOn(dns, "lookup").mockImplementation(((
    _: string,
    options: { all?: boolean },
    done: (...a: unknown[]) => void,
  ) => {
    const { address, family } = inTurn();
    if (options.all) done(null, [{ address, family }]);
    else done(null, address, family);
  }) as never);
});
afterEach(() => {
  jest.restoreAllMocks();
  expect(asked.forbidden).toBe(0);
});

const question = () =>
  ({ url: `http://${NAME}:${port}/metrics`, timeout: 5000, auth: "none", username: "", secret: "" }) as const;

test("a target is asked at the address that was checked, and not at all where the next answer is forbidden", async () => {
  expect((await fetchExposition(question(), ALLOWED)).text).toBe("doors 1\n");
  expect(lookups).toBe(1);
  await expect(fetchExposition(question(), ALLOWED)).rejects.toThrow("127.0.0.2, which is not in an allowed network");
  expect(asked.fine).toBe(1);
});

test("an exporter sends to the address that was checked, and waits where the next answer is forbidden", async () => {
  const exporter = {
    url: `http://${NAME}:${port}`,
    encoding: "json",
    gzip: false,
    timeout: 5,
    headers: {},
  } as OtlpExporter;
  const content = { signal: "metrics", batch: new Batch() } as const;
  expect(await sendOtlp(exporter, {}, content, ALLOWED)).toMatchObject({ type: "taken" });
  expect(await sendOtlp(exporter, {}, content, ALLOWED)).toMatchObject({
    type: "later",
    reason: expect.stringContaining("not in an allowed network"),
  });
  expect(asked.fine).toBe(1);
});

test("where the other side sends us on to is told, not asked", async () => {
  const url = new URL(`http://127.0.0.1:${port}/on`);
  const signal = AbortSignal.timeout(5000);
  const answer = await send({ url, headers: {}, body: null, signal, most: 100, tooLarge: null }, ALLOWED);
  expect(answer.status).toBe(302);
  await expect(fetchExposition({ ...question(), url: String(url) }, ALLOWED)).rejects.toThrow(
    "it redirects to another address",
  );
});

import http from "node:http";
import https from "node:https";
import net, { type AddressInfo } from "node:net";
import zlib from "node:zlib";
import fc from "fast-check";
import { networks } from "../address";
import type { Question } from "./fetch";
import { CERTIFICATE, KEY } from "./testing/certificate";
import { tryTarget } from "./trial";

/** Each thing that can be wrong with a target, provoked with a real server on this machine. */

const METRICS = '# TYPE doors counter\ndoors_total{depot="Brindle"} 4\ndoors_total{depot="Tolland Cross"} 2\n# EOF\n';
const OPENMETRICS = "application/openmetrics-text; version=1.0.0; charset=utf-8";

const servers: net.Server[] = [];
afterEach(() => {
  for (const server of servers.splice(0)) {
    server.close();
    (server as http.Server).closeAllConnections?.();
  }
});

function listen(server: net.Server): Promise<number> {
  servers.push(server);
  return new Promise((resolve) => server.listen(0, "127.0.0.1", () => resolve((server.address() as AddressInfo).port)));
}

const serving = (answer: http.RequestListener) => listen(http.createServer(answer));

function ask(port: number, more: Partial<Question> = {}, limit = 1000) {
  const question = {
    url: `http://127.0.0.1:${port}/metrics`,
    timeout: 60_000,
    auth: "none",
    username: "",
    secret: "",
    ...more,
  } as const;
  return tryTarget(question, networks("127.0.0.0/8,::1/128"), limit);
}

function body(text: string, type = OPENMETRICS): http.RequestListener {
  return (_, response) => {
    response.writeHead(200, { "Content-Type": type });
    response.end(text);
  };
}

test("a target that is fine tells its steps and what it offers", async () => {
  const port = await serving((request, response) => {
    expect(request.headers.accept).toContain("application/openmetrics-text");
    response.writeHead(200, { "Content-Type": OPENMETRICS, "Content-Encoding": "gzip" });
    response.end(zlib.gzipSync(METRICS));
  });
  const { steps, failure, offer, samples, series } = await ask(port);
  expect(failure).toBeNull();
  expect(steps.map(({ what }) => what)).toEqual(["resolve", "connect", "fetch", "read"]);
  expect([samples, series]).toEqual([2, 2]);
  expect(offer).toEqual([expect.objectContaining({ name: "doors", type: "counter", series: 2 })]);
});

test("a host name is looked up", async () => {
  const port = await serving(body(METRICS));
  const { steps, failure } = await ask(port, { url: `http://localhost:${port}/metrics` });
  expect(failure).toBeNull();
  expect(steps[0].said).toMatch(/^localhost is (127\.0\.0\.1|::1)$/);
});

test("a token and a password are sent as they should be", async () => {
  const port = await serving((request, response) => {
    response.writeHead(
      ["Bearer tin", `Basic ${btoa("ada:shed")}`].includes(request.headers.authorization ?? "") ? 200 : 401,
    );
    response.end("a 1\n");
  });
  expect((await ask(port)).failure?.code).toBe("unauthorized");
  expect((await ask(port, { auth: "bearer", secret: "tin" })).failure).toBeNull();
  expect((await ask(port, { auth: "basic", username: "ada", secret: "shed" })).failure).toBeNull();
  const wrong = await ask(port, { auth: "bearer", secret: "other" });
  expect(wrong.failure).toMatchObject({ code: "unauthorized", detail: expect.stringContaining("401") });
});

const answers: [string, http.RequestListener, string, string][] = [
  ["403", (_, response) => response.writeHead(403).end(), "unauthorized", "asked without a token"],
  ["404", (_, response) => response.writeHead(404).end(), "not-found", "404"],
  ["500", (_, response) => response.writeHead(500).end(), "status", "500 Internal Server Error"],
  [
    "a redirection",
    (_, response) => response.writeHead(302, { Location: "http://127.0.0.1/m" }).end(),
    "status",
    "302: it redirects",
  ],
  ["a web page", body("<!doctype html><title>Console</title>", "text/html"), "html", "like a page for people"],
  ["a web page that says it is text", body("<html>", "text/plain"), "html", "like a page for people"],
  ["JSON", body("{}", "application/json"), "content-type", "no format of metrics"],
  [
    "a bad line",
    body('good 1\nbad{a="b} 2\n# EOF\n'),
    "parse",
    'line 2: the value of label a has no closing quote — bad{a="b} 2',
  ],
  ["a text that was cut off", body("good 1\n"), "parse", "cut off"],
  ["nothing", body("# EOF\n"), "empty", "not one line"],
  ["too much", body(`a 1\n`.repeat(5_000_000), "text/plain"), "too-large", "16 MiB"],
  [
    "far too much, packed small",
    (_, response) => {
      response.writeHead(200, { "Content-Type": "text/plain", "Content-Encoding": "gzip" });
      response.end(zlib.gzipSync(Buffer.alloc(100 * 1024 * 1024), { level: 9 }));
    },
    "too-large",
    "16 MiB",
  ],
  ["a connection that is closed", (request) => request.socket.destroy(), "connection", "hang up"],
  [
    "an answer that takes too long",
    (_, response) => {
      response.writeHead(200, { "Content-Type": "text/plain" });
      response.write("a 1\n");
    },
    "timeout",
    "connected, but no full answer after 0.3 s",
  ],
];
test.each(answers)("%s", async (_, answer, code, detail) => {
  const { failure } = await ask(await serving(answer), code === "timeout" ? { timeout: 300 } : {});
  expect(failure).toMatchObject({ code, detail: expect.stringContaining(detail) });
  expect(failure?.todo).not.toBe("");
});

test("a port where nobody listens", async () => {
  const port = await serving(body(METRICS));
  servers.pop()!.close();
  expect((await ask(port)).failure?.code).toBe("refused");
});

test("a host that is not known", async () => {
  expect((await ask(0, { url: "http://no-such-depot.invalid/metrics" })).failure?.code).toBe("unknown-host");
});

test("a network that is not allowed, by address and by name", async () => {
  const { failure } = await ask(0, { url: "http://192.0.2.1/metrics" });
  expect(failure).toMatchObject({ code: "forbidden", detail: expect.stringContaining("192.0.2.1") });
  const port = await serving(body(METRICS));
  const none = await tryTarget(
    { url: `http://localhost:${port}/`, timeout: 1000, auth: "none", username: "", secret: "" },
    networks("10.0.0.0/8"),
    10,
  );
  expect(none.failure?.code).toBe("forbidden");
});

test("TLS: a certificate that nobody trusts, TLS where there is none, none where there is TLS", async () => {
  const secure = await listen(https.createServer({ cert: CERTIFICATE, key: KEY }, body(METRICS)));
  expect((await ask(secure, { url: `https://127.0.0.1:${secure}/metrics` })).failure).toMatchObject({
    code: "tls",
    detail: expect.stringContaining("self-signed"),
  });
  const open = await serving(body(METRICS));
  expect((await ask(open, { url: `https://127.0.0.1:${open}/metrics` })).failure?.code).toBe("tls");
  expect((await ask(secure)).failure).toMatchObject({ code: "connection", todo: expect.stringContaining("https://") });
});

test("more series than the limit: told with the metric, and still offered", async () => {
  const lines = Array.from({ length: 30 }, (_, i) => `opened{locker="${i}"} 1\n`).join("");
  const { failure, offer } = await ask(await serving(body(lines, "text/plain; version=0.0.4")), {}, 20);
  expect(failure).toMatchObject({ code: "too-many-series", detail: expect.stringContaining("opened has 30 series") });
  expect(offer?.[0].attributes).toEqual([expect.objectContaining({ name: "locker", distinct: 30 })]);
});

test("a server that speaks something else altogether", async () => {
  const port = await listen(net.createServer((socket) => socket.end("220 mail.fern-anvil.example ready\r\n")));
  expect((await ask(port)).failure?.code).toBe("connection");
});

test("whatever comes back, the answer is an offer or a failure with a way out", async () => {
  let reply: Uint8Array = new Uint8Array();
  let type = "";
  const port = await serving((_, response) => {
    response.writeHead(200, type === "" ? {} : { "Content-Type": type });
    response.end(reply);
  });
  await fc.assert(
    fc.asyncProperty(
      fc.oneof(
        fc.uint8Array({ maxLength: 300 }),
        fc.string({ maxLength: 200 }).map((text) => Buffer.from(text)),
      ),
      fc.constantFrom("", "text/plain", OPENMETRICS, "x/y"),
      async (bytes, said) => {
        reply = bytes;
        type = said;
        const { failure, offer } = await ask(port);
        expect(failure === null ? offer !== null : failure.title !== "" && failure.todo !== "").toBe(true);
      },
    ),
    { numRuns: 150 },
  );
});

test("networks that are none are told", () => {
  expect(() => networks("10.0.0.0")).toThrow("is no network");
  expect(() => networks("depot/8")).toThrow("is no network");
});

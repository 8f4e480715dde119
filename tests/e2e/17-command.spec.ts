import { execFile } from "node:child_process";
import { chmodSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import http from "node:http";
import type { AddressInfo } from "node:net";
import os from "node:os";
import path from "node:path";
import { expect, test } from "@playwright/test";
import { readExposition } from "../../src/core/openmetrics/read";
import { countOf, freePort, INTAKE, read, WEB } from "./helpers";

/** What a command wrote and how it ended. */
interface Ended {
  code: number;
  out: string;
  told: string;
}

function command(args: string[], input = "", more: Record<string, string> = {}): Promise<Ended> {
  return new Promise((resolve) => {
    // What is read is read with a key; what is sent on this machine needs none.
    const key = args[0] === "export" ? { TIN_KEY: process.env.TIN_TEST_KEY } : {};
    const env = { ...process.env, ...key, OTEL_EXPORTER_OTLP_ENDPOINT: INTAKE, TIN_ADDRESS: WEB, ...more };
    const child = execFile(
      process.execPath,
      ["scripts/tin-ladder.mjs", ...args],
      { env, maxBuffer: 1e9 },
      (error, out, told) => resolve({ code: error ? Number(error.code) : 0, out, told }),
    );
    child.stdin?.end(input);
  });
}

let folder = "";
test.beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "tin-ladder-"));
});
test.afterAll(() => rmSync(folder, { recursive: true, force: true }));

function file(name: string, content: string): string {
  const place = path.join(folder, name);
  writeFileSync(place, content);
  return place;
}

async function total(text: string): Promise<number | null> {
  const now = Date.now();
  const { series } = await read(text, now - 3600_000, now + 60_000, "2h");
  return series.length === 1 ? series[0].total : null;
}

test("the command says which version it is", async () => {
  const { version } = JSON.parse(readFileSync("package.json", "utf8")) as { version: string };
  expect(await command(["--version"])).toMatchObject({ code: 0, out: `${version}\n` });
});

test("one point by hand, again and again, and why one is not taken", async () => {
  const kiln = ["--service", "kiln-by-hand", "--unit", "{pot}", "--name", "pot.glazed", "--kind", "counter"];
  expect((await command(["send", ...kiln, "--value", "3", "--attr", "glaze=ash"])).code).toBe(0);
  expect((await command(["send", ...kiln, "--value", "4", "--attr", "glaze=ash"])).code).toBe(0);
  expect(await total('count of pot.glazed where glaze is "ash"')).toBe(7);
  const wrong = await command(["send", ...kiln, "--value", "-1"]);
  expect(wrong).toMatchObject({ code: 1, told: expect.stringContaining("a counter never falls; a gauge may") });
  const nowhere = await command(["send", ...kiln, "--value", "1", "--to", `http://127.0.0.1:${await freePort()}`]);
  expect(nowhere).toMatchObject({ code: 1, told: expect.stringContaining("cannot be reached (ECONNREFUSED)") });
});

test("lines of JSON and rows of a table: bad ones are told by number, the others go in", async () => {
  const lines = [
    '{"name":"clay.dug","kind":"counter","value":5,"unit":"kg","attributes":{"pit":"north"}}',
    "not json",
    '{"name":"clay.dug","kind":"counter","value":6,"unit":"kg","attributes":{"pit":"north"}}',
    '{"name":"clay.dug","kind":"counter"}',
  ];
  const json = await command(["send", "-", "--service", "pit"], lines.join("\n"));
  expect(json.code).toBe(1);
  expect(json.told).toContain("line 2: not JSON");
  expect(json.told).toContain("line 4: value: a value is expected");
  expect(await total("count of clay.dug")).toBe(11);
  const rows = [
    "name,kind,value,unit,pit",
    'wait,histogram,"20 60 400",ms,"north, deep"',
    "wait,histogram,few,ms,south",
  ];
  const table = await command(["send", file("wait.csv", rows.join("\n")), "--service", "pit"]);
  expect(table.code).toBe(1);
  expect(table.told).toContain('line 3: value: "few" is no number');
  expect(await total('count of wait where pit is "north, deep"')).toBe(3);
  expect(await total("sum of wait")).toBe(480);
});

test("a file of OTLP lines goes in but for its bad lines, and comes out as it went in", async () => {
  const now = Date.now();
  const good = Array.from({ length: 400 }, (_, i) =>
    JSON.stringify(
      countOf("loom", "cloth.woven", 1 + (i % 7), now - 600_000 + i * 1000, { hue: i % 2 ? "red" : "blue" }),
    ),
  );
  const future = JSON.stringify(countOf("loom", "cloth.woven", 99, now + 7 * 86_400_000));
  const all = [...good.slice(0, 100), "{}", ...good.slice(100, 200), future, ...good.slice(200)];
  const sent = await command(["import", file("loom.jsonl", all.join("\n"))]);
  expect(sent.code).toBe(1);
  expect(sent.told).toContain("line 101: no OTLP metrics request");
  expect(sent.told).toMatch(/line 202: .*in the future/);
  expect(sent.told).toContain("400 points");
  const wanted = Array.from({ length: 400 }, (_, i) => 1 + (i % 7)).reduce((sum, value) => sum + value, 0);
  expect(await total("count of cloth.woven")).toBe(wanted);
  const out = path.join(folder, "out.jsonl");
  const span = ["--from", String(now - 700_000), "--until", String(now + 1000)];
  expect((await command(["export", "--metric", "cloth.woven", ...span, "-o", out])).code).toBe(0);
  interface Point {
    asInt: string;
    timeUnixNano: string;
    startTimeUnixNano: string;
    attributes: { value: { stringValue: string } }[];
  }
  const points = readFileSync(out, "utf8")
    .trim()
    .split("\n")
    .flatMap((line) => JSON.parse(line).resourceMetrics)
    .flatMap(({ scopeMetrics }) => scopeMetrics)
    .flatMap(({ metrics }) => metrics)
    .flatMap(({ sum }): Point[] => sum.dataPoints);
  const flat = (list: Point[]) =>
    list
      .map((one) => [one.timeUnixNano, one.startTimeUnixNano, one.asInt, one.attributes[0].value.stringValue].join())
      .sort();
  const given = good.flatMap(
    (line): Point[] => JSON.parse(line).resourceMetrics[0].scopeMetrics[0].metrics[0].sum.dataPoints,
  );
  expect(flat(points)).toEqual(flat(given));
  // What came out goes in again, and nothing is counted twice.
  expect((await command(["import", out])).code).toBe(0);
  expect(await total("count of cloth.woven")).toBe(wanted);
});

test("series that differ by the attributes of their scope, or by the types of values, come out as they went in", async () => {
  const now = Date.now();
  const lines = [
    [{ stringValue: "warp" }, { stringValue: "6" }],
    [{ stringValue: "weft" }, { stringValue: "6" }],
    [{ stringValue: "weft" }, { intValue: "6" }],
    [{ stringValue: "weft" }, { doubleValue: 6 }],
    [{ doubleValue: 1 }, { intValue: "9007199254740993" }],
  ].map(([side, ply]) => {
    const request = countOf("twine", "twine.spun", 5, now - 60_000) as {
      resourceMetrics: { scopeMetrics: { scope?: object; metrics: { sum: { dataPoints: object[] } }[] }[] }[];
    };
    const [part] = request.resourceMetrics[0].scopeMetrics;
    part.scope = { name: "wheel", version: "2", attributes: [{ key: "side", value: side }] };
    Object.assign(part.metrics[0].sum.dataPoints[0], { attributes: [{ key: "ply", value: ply }] });
    return JSON.stringify(request);
  });
  expect((await command(["import", file("twine.jsonl", lines.join("\n"))])).code).toBe(0);
  expect(await total("count of twine.spun")).toBe(25);
  const out = path.join(folder, "twine-out.jsonl");
  expect((await command(["export", "--metric", "twine.spun", "--from", "1h", "-o", out])).code).toBe(0);
  interface Part {
    scope: object;
    metrics: { sum: { dataPoints: { attributes: object }[] } }[];
  }
  const seen = (text: string) =>
    text
      .trim()
      .split("\n")
      .flatMap((line): { scopeMetrics: Part[] }[] => JSON.parse(line).resourceMetrics)
      .flatMap(({ scopeMetrics }) => scopeMetrics)
      .flatMap(({ scope, metrics }) =>
        metrics[0].sum.dataPoints.map(({ attributes }) => JSON.stringify([scope, attributes])),
      )
      .sort();
  expect(seen(readFileSync(out, "utf8"))).toEqual(seen(lines.join("\n")));
  expect((await command(["import", out])).code).toBe(0);
  expect(await total("count of twine.spun")).toBe(25);
});

test("OpenMetrics out and in: totals of deltas, read by the standard's rules", async () => {
  const now = Date.now();
  const span = ["--from", "1h", "--until", String(now + 1000), "--where", "hue=red", "--format", "openmetrics"];
  const { out, code } = await command(["export", "--metric", "cloth.woven", ...span]);
  expect(code).toBe(0);
  const { families, problems } = readExposition(out, "openmetrics");
  expect(problems).toEqual([]);
  const totals = families[0].samples.filter(({ name }) => name === "cloth_woven_total");
  expect(totals).toHaveLength(200);
  const reds = Array.from({ length: 400 }, (_, i) => (i % 2 ? 1 + (i % 7) : 0)).reduce((sum, value) => sum + value, 0);
  expect(totals[199].value).toBe(reds);
  const text = out.replaceAll("cloth_woven", "cloth_again").replace("# EOF", '# TYPE ha gauge\nha{x="\n# EOF');
  const back = await command(["import", file("again.txt", text), "--service", "loom-copy"]);
  expect(back.code).toBe(1);
  expect(back.told).toMatch(/line \d+: .*ha\{x="/);
  expect(back.told).toContain("200 points");
  // What a total began with counts as well: the text says when it was created.
  expect(await total("count of cloth_again")).toBe(reds);
});

test("an export says what is wrong with what was asked", async () => {
  const unknown = await command(["export", "--metric", "cloth.woven", "--where", "hue"]);
  expect(unknown).toMatchObject({ code: 1, told: expect.stringContaining("name=value") });
  expect(await command(["export", "--metric", "never.seen", "--format", "openmetrics"])).toMatchObject({
    code: 0,
    out: "# EOF\n",
  });
});

test("lines of one series and time are told to become one point; an unknown metric is said, and HTML never printed", async () => {
  const line = (value: number, time: number) => JSON.stringify({ name: "pot.thrown", kind: "counter", value, time });
  const at = Date.now() - 60_000;
  const lines = file("thrown.jsonl", [line(1, at), line(2, at), line(3, at + 1000)].join("\n"));
  const sent = await command(["send", lines, "--service", "wheel-by-hand"]);
  expect(sent).toMatchObject({ code: 0, told: expect.stringContaining("3 lines became 2 points") });
  expect(await total("count of pot.thrown")).toBe(6);

  const unknown = await command(["export", "--metric", "pot.throwm"]);
  expect(unknown.told).toContain("no metric named pot.throwm (is pot.thrown meant?) has arrived");
  const empty = await command(["export", "--metric", "pot.thrown", "--from", "3h", "--until", "2000-01-01"]);
  expect(empty).toMatchObject({ code: 1 });
  const early = await command(["export", "--metric", "pot.thrown", "--from", "3h", "--until", String(at - 3600_000)]);
  expect(early.told).toContain("no points of pot.thrown in this span");

  const other = http.createServer((_, response) => {
    response.writeHead(200, { "Content-Type": "text/html" }).end("<html><body>Fern & Anvil</body></html>");
  });
  const port = await freePort();
  await new Promise<void>((resolve) => other.listen(port, "127.0.0.1", resolve));
  try {
    const exported = await command(["export", "--metric", "pot.thrown", "--at", `http://127.0.0.1:${port}`]);
    expect(exported).toMatchObject({
      code: 1,
      out: "",
      told: expect.stringContaining("something else than Tin Ladder"),
    });
    expect(exported.told).not.toContain("<html>");
  } finally {
    other.close();
  }
});

test("a key comes from the environment or a file that nobody else can read, and is no argument", async () => {
  const send = ["send", "--name", "spool.wound", "--kind", "counter", "--value", "1"];
  const asked: (string | undefined)[] = [];
  const server = http.createServer((request, response) => {
    asked.push(request.headers.authorization);
    request.resume().on("end", () => response.setHeader("Content-Type", "application/json").end("{}"));
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", () => resolve()));
  const to = ["--to", `http://127.0.0.1:${(server.address() as AddressInfo).port}`];
  try {
    const key = file("key", "tin_of_a_file\n");
    chmodSync(key, 0o644);
    expect(await command([...send, ...to, "--key-file", key])).toMatchObject({
      code: 1,
      told: expect.stringContaining(`chmod 600 ${key}`),
    });
    chmodSync(key, 0o600);
    expect((await command([...send, ...to, "--key-file", key])).code).toBe(0);
    expect((await command([...send, ...to], "", { TIN_KEY: "tin_of_the_environment" })).code).toBe(0);
    expect((await command([...send, ...to])).code).toBe(0);
    expect(asked).toEqual(["Bearer tin_of_a_file", "Bearer tin_of_the_environment", undefined]);
    expect((await command([...send, ...to, "--key", "tin_in_sight"])).told).toContain("unknown option '--key'");
    expect(asked).toHaveLength(3);
  } finally {
    server.close();
  }
});

import http from "node:http";
import type { AddressInfo } from "node:net";
import { Request as OtlpRequest } from "../../src/core/otlp/testing/schema";
import { endClusters, newCluster } from "../e2e/clusters";
import { wait } from "../e2e/hammer";
import { countOf, freePort, killHard, startIntake, startWeb } from "../e2e/helpers";
import { memoryOf } from "./memory";
import { postProtobuf } from "./sender";

/**
 * Series that change all the time, each a small part of a large body: as JSON, as protobuf and on scraped pages. What is
 * kept of a body has to be no more than that part: one that holds on to the whole of each fills its memory here.
 */

/** Bytes of a body that say nothing. */
const FILLER = 2 * 1024 * 1024;
/** New series of each body. */
const NEW = 20;
const TARGETS = 3;

export interface Turnover {
  /** Series that were sent, and what was counted of them: one each. */
  sent: number;
  /** Bodies that came over OTLP, and pages that were scraped. */
  bodies: number;
  pages: number;
  /** Of all bodies and pages together, MiB. */
  bytes: number;
  /** Resident memory, MiB: the most in the second quarter of the time, and in the last. */
  early: number;
  late: number;
  counted: number;
}

/** A request with series that were never seen before. */
function requestOf(turn: number, ms: number): object {
  const requests = Array.from({ length: NEW }, (_, i) =>
    countOf("turnover", "leaf.turned", 1, ms, { leaf: `${turn} ${i} ${"x".repeat(40)}` }),
  );
  return { resourceMetrics: requests.flatMap((one) => (one as { resourceMetrics: object[] }).resourceMetrics) };
}

function asJson(request: object): string {
  return `${" ".repeat(FILLER)}${JSON.stringify(request)}`;
}

/** As protobuf, with a field that nobody knows (number 1000, bytes). */
function asProtobuf(request: object): Buffer {
  const message = OtlpRequest.encode(OtlpRequest.fromObject(request)).finish();
  const length: number[] = [];
  for (let rest = FILLER; rest > 0; rest = Math.floor(rest / 128)) length.push((rest % 128) | (rest >= 128 ? 128 : 0));
  return Buffer.concat([message, Buffer.from([0xc2, 0x3e, ...length]), Buffer.alloc(FILLER)]);
}

/** Sends so many bodies, and is scraped meanwhile, on a cluster of its own. */
export async function turnover(wanted: number): Promise<Turnover> {
  const cluster = await newCluster("turnover");
  const env = { DATABASE_URL: cluster.url };
  const [port, webPort] = [await freePort(), await freePort()];
  const intake = await startIntake(port, env);
  const web = await startWeb(webPort, env);
  const base = `http://127.0.0.1:${port}`;
  let pages = 0;
  const server = http.createServer((_, response) => {
    const turn = pages++;
    const lines = Array.from({ length: NEW }, (__, i) => `leaf_seen{leaf="${turn} ${i} ${"y".repeat(40)}"} 1`);
    response.setHeader("Content-Type", "text/plain; version=0.0.4");
    response.end(`# TYPE leaf_seen gauge\n${`# ${"z".repeat(1021)}\n`.repeat(FILLER / 1024)}${lines.join("\n")}\n`);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", () => resolve()));
  try {
    for (let i = 0; i < TARGETS; i++) {
      const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/${i}`;
      const target = { name: `page-${i}`, url, every: 1000, timeout: 1000, auth: "none" };
      const response = await fetch(`http://127.0.0.1:${webPort}/api/targets`, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(target),
      });
      if (!response.ok) throw new Error(await response.text());
    }
    const began = Date.now();
    const memory: number[] = [];
    let bodies = 0;
    while (bodies < wanted) {
      const request = requestOf(bodies, began + bodies);
      const json = () =>
        fetch(`${base}/v1/metrics`, {
          method: "POST",
          headers: { "Content-Type": "application/json" },
          body: asJson(request),
        }).then(({ status }) => status);
      const status = await (bodies % 2 === 0 ? json() : postProtobuf(base, asProtobuf(request)));
      if (status !== 200) throw new Error(`answered ${status}`);
      bodies++;
      memory.push(memoryOf(intake));
      await wait(5);
    }
    const query = new URLSearchParams({
      text: "count of leaf.turned",
      from: String(began - 60_000),
      to: String(Date.now() + 60_000),
      every: "1h",
    });
    const answer = await fetch(`http://127.0.0.1:${webPort}/api/reading?${query}`);
    const { series } = (await answer.json()) as { series: { total: number }[] };
    const most = (from: number, to: number) =>
      Math.round(Math.max(...memory.slice(memory.length * from, memory.length * to)));
    return {
      sent: bodies * NEW,
      bodies,
      pages,
      bytes: Math.round(((bodies + pages) * FILLER) / 1024 / 1024),
      early: most(0.25, 0.5),
      late: most(0.75, 1),
      counted: series[0].total,
    };
  } finally {
    server.close();
    server.closeAllConnections();
    for (const child of [intake, web]) await killHard(child);
    await endClusters([cluster]);
  }
}

import { type ChildProcess, execFile, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import https from "node:https";
import os from "node:os";
import path from "node:path";
import tls from "node:tls";
import { promisify } from "node:util";
import * as grpc from "@grpc/grpc-js";
import { expect, test } from "@playwright/test";
import pg from "pg";
import { Authenticator } from "../../src/intake/receive/authenticator";
import { type AccessSystem, asked, firstOwner, OTTILIE, startAccessSystem } from "./accessSystem";
import { countOf, freePort, killHard, startWeb, tied } from "./helpers";

/** Served to others than this machine: what has to be there first, and how it goes with a proxy and certificates. */

const NAME = "tin.fern-anvil.example";
let folder = "";
let system: AccessSystem;

test.beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), "tin-beyond-"));
  await certificate("first");
  await certificate("second");
  system = await startAccessSystem("beyond");
});
test.afterAll(async () => {
  await system?.end();
  rmSync(folder, { recursive: true, force: true });
});

const fileOf = (name: string) => path.join(folder, name);

/** A certificate for our name that nobody else vouches for. */
async function certificate(name: string): Promise<void> {
  const subject = ["-subj", `/CN=${NAME}`, "-addext", `subjectAltName=DNS:${NAME},DNS:localhost`];
  const key = [
    "-newkey",
    "ec",
    "-pkeyopt",
    "ec_paramgen_curve:prime256v1",
    "-nodes",
    "-keyout",
    fileOf(`${name}-key.pem`),
  ];
  await promisify(execFile)("openssl", [
    "req",
    "-x509",
    "-days",
    "2",
    ...key,
    ...subject,
    "-out",
    fileOf(`${name}.pem`),
  ]);
}

/** How a program that does not start ends: with what it says. */
function ended(program: string, more: Record<string, string>): Promise<string> {
  return new Promise((resolve) => {
    const env = { ...process.env, ...system.env, TIN_INTAKE_GRPC_PORT: "0", ...more, LOG_LEVEL: "fatal" };
    const child = tied(spawn(process.execPath, [program], { env, stdio: ["ignore", "pipe", "ignore"] }));
    let said = "";
    child.stdout?.on("data", (chunk: Buffer) => {
      said += chunk.toString();
    });
    const late = setTimeout(() => child.kill("SIGKILL"), 300_000);
    child.on("exit", (code) => {
      clearTimeout(late);
      resolve(`${code}: ${said}`);
    });
  });
}

test("nothing listens beyond this machine before it is safe to: each time it is said what to do", async () => {
  const web = (more: Record<string, string>) => ended(".build/web.js", { TIN_WEB_PORT: "1", ...more });
  const ours = { TIN_PUBLIC_URL: `https://${NAME}` };
  expect(await web({ TIN_HOST: "0.0.0.0" })).toMatch(/^1: .*say in TIN_PUBLIC_URL under which address/);
  expect(await web({ TIN_PUBLIC_URL: "tin.fern-anvil.example" })).toMatch(/^1: .*an address such as https:/);
  expect(await web({ TIN_PUBLIC_URL: `http://${NAME}` })).toMatch(/^1: .*passwords would go over the network/);
  expect(await web({ TIN_HOST: "0.0.0.0", ...ours })).toMatch(/^1: .*nobody owns this installation yet/);
  expect(await web(ours)).toMatch(/^1: .*nobody owns this installation yet/);
  expect(await web({ TIN_TRUSTED_PROXIES: "nginx" })).toMatch(/^1: .*TIN_TRUSTED_PROXIES: \\"nginx\\" is no network/);
  const intake = (more: Record<string, string>) => ended(".build/intake.js", more);
  expect(await intake({ TIN_INTAKE_HOST: "0.0.0.0" })).toMatch(/^1: .*keys would go over the network/);
  expect(await intake({ TIN_TLS_CERT: fileOf("first.pem") })).toMatch(/^1: .*belong together/);
  const wrong = { TIN_TLS_CERT: fileOf("first.pem"), TIN_TLS_KEY: fileOf("second-key.pem") };
  expect(await intake(wrong)).toMatch(/^1: .*TIN_TLS_CERT and TIN_TLS_KEY cannot be used/);
});

test("an intake that others reach takes nothing without a key, whatever the rule says", async () => {
  const pool = new pg.Pool({ connectionString: system.cluster.url });
  const [here, beyond] = [new Authenticator(pool), new Authenticator(pool, true)];
  expect(await here.environmentOf(undefined)).toBeNull();
  await expect(beyond.environmentOf(undefined)).rejects.toThrow("a key is needed and none was sent");
  await pool.end();
});

interface Seen {
  status: number;
  headers: NodeJS.Dict<string | string[]>;
  body: string;
}

/** Asks over TLS, from an address of this machine. */
function overTls(
  port: number,
  at: string,
  { body, from = "127.0.0.1", ...headers }: Record<string, string> = {},
): Promise<Seen> {
  return new Promise((resolve, reject) => {
    const request = https.request(
      {
        host: "127.0.0.1",
        port,
        path: at,
        servername: NAME,
        localAddress: from,
        ca: readFileSync(fileOf("first.pem")),
        method: body === undefined ? "GET" : "POST",
        headers: { Host: NAME, "Content-Type": "application/json", ...headers },
      },
      (response) => {
        let text = "";
        response.on("data", (chunk: Buffer) => {
          text += chunk.toString();
        });
        response.on("end", () => resolve({ status: response.statusCode!, headers: response.headers, body: text }));
      },
    );
    request.on("error", reject);
    request.end(body);
  });
}

test("behind nginx as the guide says: its name only, secure cookies, and where each caller is", async () => {
  const owner = await firstOwner(system);
  const [webPort, port] = [await freePort(), await freePort()];
  const web = await startWeb(webPort, {
    ...system.env,
    TIN_PUBLIC_URL: `https://${NAME}`,
    TIN_TRUSTED_PROXIES: "127.0.0.1/32",
  });
  const guide = readFileSync("docs/nginx.conf", "utf8")
    .replace("listen 443 ssl", `listen 127.0.0.1:${port} ssl`)
    .replace("/etc/ssl/tin-ladder/certificate.pem", fileOf("first.pem"))
    .replace("/etc/ssl/tin-ladder/key.pem", fileOf("first-key.pem"))
    .replace("127.0.0.1:4300", `127.0.0.1:${webPort}`);
  const temporary = ["client_body", "proxy", "fastcgi", "uwsgi", "scgi"].map(
    (one) => `${one}_temp_path ${folder}/${one};`,
  );
  writeFileSync(
    fileOf("nginx.conf"),
    `daemon off; worker_processes 1; pid ${fileOf("nginx.pid")}; error_log ${fileOf("error.log")};
     events {} http { access_log off; ${temporary.join(" ")} ${guide} }`,
  );
  const nginx: ChildProcess = tied(
    spawn("/usr/sbin/nginx", ["-c", fileOf("nginx.conf"), "-p", folder], { stdio: "ignore" }),
  );
  try {
    await expect
      .poll(() =>
        overTls(port, "/api/health").then(
          ({ status }) => status,
          () => 0,
        ),
      )
      .toBe(200);
    const { headers } = await overTls(port, "/api/me");
    expect(headers["strict-transport-security"]).toContain("max-age=");
    const { email, password } = OTTILIE;
    const signedIn = await overTls(port, "/api/sign-in", {
      body: JSON.stringify({ email, password }),
      from: "127.0.0.5",
      Origin: `https://${NAME}`,
      // What a caller says of itself is nobody's word.
      "X-Forwarded-For": "192.0.2.99",
      "X-Tin-Caller": "192.0.2.98",
    });
    expect(signedIn.status).toBe(200);
    const [cookie] = signedIn.headers["set-cookie"] as unknown as string[];
    expect(cookie).toMatch(/^__Secure-tin(-\d+)?\.session_token=.*; Secure/i);
    expect((await overTls(port, "/api/people", { Cookie: cookie.split(";")[0] })).status).toBe(200);
    const { lines } = (await asked(system.web, "GET", "/api/record?find=signed+in", undefined, { Cookie: owner }))
      .body as {
      lines: { did: string; address: string }[];
    };
    expect(lines[0]).toMatchObject({ did: "signed in", address: "127.0.0.5" });
    // Another's page, and another name.
    const foreign = { body: JSON.stringify({ email, password }), Origin: "https://else.example" };
    expect((await overTls(port, "/api/sign-in", foreign)).status).toBe(403);
    const named = await fetch(`http://127.0.0.1:${webPort}/api/health`, { headers: { Authorization: "" } });
    expect(named.status).toBe(200);
  } finally {
    await killHard(nginx);
    await killHard(web);
  }
});

test("the intake speaks TLS by itself over HTTP and gRPC, and shows a renewed certificate without a restart", async () => {
  const [port, grpcPort, webPort] = [await freePort(), await freePort(), await freePort()];
  const [cert, key] = [fileOf("shown.pem"), fileOf("shown-key.pem")];
  const show = (name: string) => {
    writeFileSync(key, readFileSync(fileOf(`${name}-key.pem`)));
    writeFileSync(cert, readFileSync(fileOf(`${name}.pem`)));
  };
  show("first");
  const env = {
    ...process.env,
    ...system.env,
    TIN_INTAKE_PORT: String(port),
    TIN_INTAKE_GRPC_PORT: String(grpcPort),
    TIN_TLS_CERT: cert,
    TIN_TLS_KEY: key,
    LOG_LEVEL: "error",
  };
  const intake = tied(spawn(process.execPath, [".build/intake.js"], { env, stdio: "ignore" }));
  const shown = (at: number) =>
    new Promise<string>((resolve, reject) => {
      const socket = tls.connect(
        { host: "127.0.0.1", port: at, rejectUnauthorized: false, ALPNProtocols: ["h2", "http/1.1"] },
        () => {
          resolve(socket.getPeerX509Certificate()!.fingerprint256);
          socket.destroy();
        },
      );
      socket.on("error", reject);
    });
  const finger = (name: string) =>
    promisify(execFile)("openssl", ["x509", "-noout", "-fingerprint", "-sha256", "-in", fileOf(`${name}.pem`)]).then(
      ({ stdout }) => stdout.trim().split("=")[1],
    );
  const bothShow = () => Promise.all([shown(port), shown(grpcPort)]).catch(() => []);
  try {
    const first = await finger("first");
    await expect.poll(bothShow).toEqual([first, first]);
    const message = JSON.stringify(countOf("gatehouse", "gate.barred", 3, Date.now()));
    expect((await overTls(port, "/v1/metrics", { Host: "localhost", body: message })).status).toBe(200);
    await overGrpc(grpcPort);
    // Pages reach it too, by its certificate.
    const web = await startWeb(webPort, {
      ...system.env,
      TIN_INTAKE_PORT: String(port),
      TIN_TLS_CERT: cert,
      TIN_TLS_KEY: key,
    });
    const target = { name: "gate", url: "http://127.0.0.1:9/metrics", every: 15_000, timeout: 2000, auth: "none" };
    const tried = await fetch(`http://127.0.0.1:${webPort}/api/targets/try`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(target),
    });
    expect(await tried.json()).toMatchObject({ failure: expect.anything() });
    await killHard(web);
    show("second");
    const second = await finger("second");
    expect(second).not.toBe(first);
    await expect.poll(bothShow).toEqual([second, second]);
  } finally {
    await killHard(intake);
  }
});

/** An empty request of OTLP/gRPC, over TLS with the name that the certificate is for. */
function overGrpc(port: number): Promise<void> {
  const credentials = grpc.credentials.createSsl(readFileSync(fileOf("first.pem")));
  const client = new grpc.Client(`127.0.0.1:${port}`, credentials, { "grpc.ssl_target_name_override": NAME });
  const as = (bytes: Buffer) => bytes;
  return new Promise((resolve, reject) => {
    client.makeUnaryRequest(
      "/opentelemetry.proto.collector.metrics.v1.MetricsService/Export",
      as,
      as,
      Buffer.alloc(0),
      (error) => {
        client.close();
        if (error) reject(error);
        else resolve();
      },
    );
  });
}

import { type ChildProcess, execFile } from "node:child_process";
import type { AddressInfo } from "node:net";
import { promisify } from "node:util";
import { SMTPServer } from "smtp-server";
import { fetchAsNobody } from "./asProgram";
import { type Cluster, endClusters, newCluster } from "./clusters";
import { freePort, killHard, startIntake, startWeb } from "./helpers";

/** A system of a test's own whose accounts it makes, with somebody to hand mail in to. */

export interface AccessSystem {
  web: string;
  intake: string;
  /** The port of OTLP/gRPC. */
  grpc: number;
  env: Record<string, string>;
  cluster: Cluster;
  /** Messages that were handed in, oldest first. */
  mails: string[];
  /** Takes mail no more, as a server that is away. */
  closeMail: () => Promise<void>;
  end: () => Promise<void>;
}

async function postbox(mails: string[]): Promise<{ url: string; close: () => Promise<void> }> {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ["STARTTLS"],
    onData(stream, _session, taken) {
      let text = "";
      stream.on("data", (chunk: Buffer) => {
        text += chunk.toString();
      });
      stream.on("end", () => {
        // Long lines are broken in the way that mail does (quoted-printable, RFC 2045).
        mails.push(text.replace(/=\r?\n/g, "").replace(/=3D/g, "="));
        taken();
      });
    },
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", () => resolve()));
  const { port } = server.server.address() as AddressInfo;
  return { url: `smtp://127.0.0.1:${port}`, close: () => new Promise((resolve) => server.close(() => resolve())) };
}

export async function startAccessSystem(name: string, more: Record<string, string> = {}): Promise<AccessSystem> {
  const cluster = await newCluster(name);
  const mails: string[] = [];
  const { url, close } = await postbox(mails);
  const [port, webPort, grpc] = [await freePort(), await freePort(), await freePort()];
  const web = `http://localhost:${webPort}`;
  const env = {
    DATABASE_URL: cluster.url,
    TIN_SMTP_URL: url,
    TIN_SECRET_KEY: `of ${name}`,
    TIN_EXPORT_DIR: `/tmp/tin-ladder-${name}`,
    TIN_INTAKE_PORT: String(port),
    TIN_INTAKE_GRPC_PORT: String(grpc),
    TIN_WEB_PORT: String(webPort),
    ...more,
  };
  const children: ChildProcess[] = [await startIntake(port, env), await startWeb(webPort, env)];
  return {
    web,
    intake: `http://127.0.0.1:${port}`,
    grpc,
    env,
    cluster,
    mails,
    closeMail: close,
    end: async () => {
      for (const child of children) await killHard(child);
      await close();
      await endClusters([cluster]);
    },
  };
}

/** Asks a start's program for an address that works once. */
export async function startsLink(system: AccessSystem, task: "first-owner" | "demonstration"): Promise<string> {
  const run = promisify(execFile)(process.execPath, [".build/access.js", task], {
    env: { ...process.env, ...system.env },
  });
  return (await run).stdout;
}

export const linkIn = (address: string): string => new URL(address).searchParams.get("link")!;

/** An answer, with the session that it set. */
export interface Answered {
  status: number;
  body: Record<string, unknown>;
  cookie: string;
  headers: Headers;
}

/** Asks a call as a program without a key, with a session's cookie or none. */
export async function asked(
  web: string,
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<Answered> {
  const response = await fetchAsNobody(web + path, {
    method,
    headers: { "Content-Type": "application/json", ...headers },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const cookies = response.headers.getSetCookie().map((one) => one.split(";")[0]);
  const text = await response.text();
  return {
    status: response.status,
    body: (text.startsWith("{") ? JSON.parse(text) : {}) as Record<string, unknown>,
    cookie: cookies.join("; "),
    headers: response.headers,
  };
}

/** A person of a test. */
export interface TestPerson {
  name: string;
  email: string;
  password: string;
}

export const OTTILIE: TestPerson = {
  name: "Ottilie Marsh",
  email: "ottilie@fern-anvil.example",
  password: "four words of slate",
};

/** Makes the first owner. @returns the cookie of their session */
export async function firstOwner(system: AccessSystem): Promise<string> {
  const link = linkIn(await startsLink(system, "first-owner"));
  const made = await asked(system.web, "POST", "/api/first-owner", { link, ...OTTILIE });
  if (made.status !== 200) throw new Error(`the first owner was not made: ${JSON.stringify(made.body)}`);
  return made.cookie;
}

/** Invites somebody and accepts for them. @returns the cookie of their session */
export async function invited(system: AccessSystem, owner: string, role: string, person: TestPerson): Promise<string> {
  const { email, name, password } = person;
  const invitation = await asked(system.web, "POST", "/api/people/invitations", { email, role }, { Cookie: owner });
  const link = linkIn(invitation.body.link as string);
  const made = await asked(system.web, "POST", "/api/invitation", { link, name, password });
  if (made.status !== 200) throw new Error(`${name} was not taken in: ${JSON.stringify(made.body)}`);
  return made.cookie;
}

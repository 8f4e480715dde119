import { X509Certificate } from "node:crypto";
import { once } from "node:events";
import { readFile } from "node:fs/promises";
import http from "node:http";
import net from "node:net";
import tls from "node:tls";
import { setting } from "@/core/settings/environment";
import { houseKey } from "@/store/database/secrets";
import { Refusal } from "./serve";

/** What the intake does for pages. It is a process of this machine, and is told who asks by the key of the house. */

/** Where the intake is reached that listens on every address. */
const ANY: Readonly<Record<string, string>> = { "0.0.0.0": "127.0.0.1", "::": "::1" };

/** For how long the intake may say nothing, ms: longer than what it does for pages may take. */
const PATIENCE = 90_000;

/** A connection to the intake; over TLS only to the one that shows our own certificate. @throws Error */
async function connection(): Promise<net.Socket> {
  const [host, port, file] = [setting("TIN_INTAKE_HOST"), setting("TIN_INTAKE_PORT"), setting("TIN_TLS_CERT")];
  const at = { host: ANY[host] ?? host, port };
  if (file === null) {
    const socket = net.connect(at);
    await once(socket, "connect");
    return socket;
  }
  const own = new X509Certificate(await readFile(file));
  // Its name is that by which senders call it. That it is ours is seen by the certificate itself.
  const socket = tls.connect({ ...at, rejectUnauthorized: false });
  await once(socket, "secureConnect");
  if (socket.getPeerX509Certificate()?.fingerprint256 === own.fingerprint256) return socket;
  socket.destroy();
  throw new Error("another certificate than ours is shown there");
}

async function answerOf(path: string, question: object): Promise<{ status: number; body: string }> {
  const socket = await connection();
  const sent = JSON.stringify(question);
  const headers = {
    "Content-Type": "application/json",
    "Content-Length": Buffer.byteLength(sent),
    "X-Tin-Key": houseKey(),
    Connection: "close",
  };
  const request = http.request({ createConnection: () => socket, method: "POST", path, headers });
  request.setTimeout(PATIENCE, () => request.destroy(new Error("it takes too long")));
  request.end(sent);
  const [response] = (await once(request, "response")) as [http.IncomingMessage];
  let body = "";
  for await (const chunk of response.setEncoding("utf8")) body += chunk;
  return { status: response.statusCode ?? 0, body };
}

function jsonIn(text: string): { message?: string } {
  try {
    return JSON.parse(text) as { message?: string };
  } catch {
    return {};
  }
}

/** Asks the intake something for a page. @throws Refusal with what it answered, or that it does not */
export async function askIntake(path: string, question: object, title: string): Promise<unknown> {
  let answer: { status: number; body: string };
  try {
    answer = await answerOf(path, question);
  } catch (error) {
    const where = `${setting("TIN_INTAKE_HOST")}:${setting("TIN_INTAKE_PORT")}`;
    throw new Refusal(503, {
      title: "The intake does not answer",
      detail: `this is done by the intake, which should listen on ${where} (${(error as Error).message}); is it running?`,
    });
  }
  const body = jsonIn(answer.body);
  if (answer.status === 200) return body;
  throw new Refusal(answer.status, { title, detail: body.message ?? `the intake answered ${answer.status}` });
}

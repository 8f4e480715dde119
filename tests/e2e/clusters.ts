import { execFile } from "node:child_process";
import { mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { promisify } from "node:util";
import { freePort } from "./helpers";

/** PostgreSQL clusters of a test's own, on loopback. */

export interface Cluster {
  url: string;
  home: string;
  stop: () => Promise<void>;
}

interface Tools {
  startCluster: (options: { data: string; port: number }) => Promise<Cluster>;
  startServer: (home: string, port: number) => Promise<void>;
  stopServer: (home: string, mode: "fast" | "immediate") => Promise<void>;
  startReplica: (options: { of: string; data: string; port: number }) => Promise<Cluster>;
}

const tools = path.resolve("scripts/lib/cluster.mjs");
const folders: string[] = [];

function folder(name: string): string {
  const data = path.resolve(".data", `test-${process.pid}-${name}`);
  mkdirSync(data, { recursive: true });
  folders.push(data);
  return data;
}

/** A new, empty cluster. */
export async function newCluster(name: string): Promise<Cluster> {
  const { startCluster } = (await import(tools)) as Tools;
  return startCluster({ data: folder(name), port: await freePort() });
}

/** A streaming replica of a cluster. */
export async function newReplica(name: string, of: string): Promise<Cluster> {
  const { startReplica } = (await import(tools)) as Tools;
  return startReplica({ of, data: folder(name), port: await freePort() });
}

/** Stops a cluster's server as a power cut would, and starts it again. */
export async function restartCluster({ home, url }: Cluster): Promise<void> {
  const { startServer, stopServer } = (await import(tools)) as Tools;
  await stopServer(home, "immediate");
  await startServer(home, Number(new URL(url).port));
}

/** Stops clusters and removes their folders. */
export async function endClusters(clusters: readonly Cluster[]): Promise<void> {
  for (const { stop, home } of clusters) {
    await stop();
    rmSync(home, { recursive: true, force: true });
  }
  for (const one of folders.splice(0)) rmSync(one, { recursive: true, force: true });
}

/** Runs one of PostgreSQL's own programs. */
export async function postgresProgram(name: string, ...args: string[]): Promise<string> {
  const { stdout } = await promisify(execFile)(path.join("/usr/lib/postgresql/15/bin", name), args);
  return stdout;
}

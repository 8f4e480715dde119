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
/** The folder of each cluster's data, by its address. */
const folders = new Map<string, string>();

function folder(name: string): string {
  const data = path.resolve(".data", `test-${process.pid}-${name}`);
  mkdirSync(data, { recursive: true });
  return data;
}

function noted(cluster: Cluster, data: string): Cluster {
  folders.set(cluster.url, data);
  return cluster;
}

/** A new, empty cluster. */
export async function newCluster(name: string): Promise<Cluster> {
  const { startCluster } = (await import(tools)) as Tools;
  const data = folder(name);
  return noted(await startCluster({ data, port: await freePort() }), data);
}

/** A streaming replica of a cluster. */
export async function newReplica(name: string, of: string): Promise<Cluster> {
  const { startReplica } = (await import(tools)) as Tools;
  const data = folder(name);
  return noted(await startReplica({ of, data, port: await freePort() }), data);
}

/** Stops a cluster's server as a power cut would, and starts it again. */
export async function restartCluster({ home, url }: Cluster): Promise<void> {
  const { startServer, stopServer } = (await import(tools)) as Tools;
  await stopServer(home, "immediate");
  await startServer(home, Number(new URL(url).port));
}

/** Stops clusters and removes their folders. */
export async function endClusters(clusters: readonly Cluster[]): Promise<void> {
  for (const { stop, home, url } of clusters) {
    await stop();
    rmSync(home, { recursive: true, force: true });
    const data = folders.get(url);
    if (data) rmSync(data, { recursive: true, force: true });
  }
}

/** Runs one of PostgreSQL's own programs. */
export async function postgresProgram(name: string, ...args: string[]): Promise<string> {
  const { stdout } = await promisify(execFile)(path.join("/usr/lib/postgresql/15/bin", name), args);
  return stdout;
}

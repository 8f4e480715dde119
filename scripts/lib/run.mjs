import { fork, spawn } from "node:child_process";
import { readFileSync } from "node:fs";
import { Stop } from "./say.mjs";

export const root = new URL("../..", import.meta.url).pathname.replace(/\/$/, "");

/** Runs a command to its end. @returns its standard output where `quiet`, else "" */
export function run(command, args, { quiet = false, env = {}, cwd = root, input = "" } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd,
      env: { ...process.env, ...env },
      stdio: [input ? "pipe" : "ignore", quiet ? "pipe" : "inherit", quiet ? "pipe" : "inherit"],
    });
    let out = "";
    let err = "";
    child.stdout?.on("data", (chunk) => {
      out += chunk;
    });
    child.stderr?.on("data", (chunk) => {
      err += chunk;
    });
    if (input) child.stdin.end(input);
    child.on("error", (error) => reject(new Stop(`${command}: ${error.message}`)));
    child.on("close", (code) => {
      if (code === 0) resolve(out);
      else reject(new Stop(`${command} ${args.join(" ")} ended with ${code}\n${err || out}`));
    });
  });
}

/**
 * Runs a program of ours that does the first part of its work, says so, and does the rest when it is told to.
 *
 * @returns after the first part: how to have the rest done, which is awaited
 */
export async function inTwoParts(file, { env = {} } = {}) {
  const child = fork(file, { cwd: root, env: { ...process.env, ...env }, execArgv: ["--enable-source-maps"] });
  const ended = new Promise((resolve, reject) => {
    child.on("error", (error) => reject(new Stop(`${file}: ${error.message}`)));
    child.on("exit", (code, signal) =>
      code === 0 ? resolve() : reject(new Stop(`${file} ended with ${signal ?? code}`)),
    );
  });
  ended.catch(() => {});
  await Promise.race([new Promise((resolve) => child.once("message", resolve)), ended]);
  // Where the script ends before, so does what waits for it.
  child.unref();
  child.channel?.unref();
  return async () => {
    child.ref();
    if (child.connected) child.send("go on");
    await ended;
  };
}

/** Waits for works that go on side by side, also for the others where one fails: nothing is left behind that still runs. */
export async function together(...works) {
  const ended = await Promise.allSettled(works);
  const failed = ended.find(({ status }) => status === "rejected");
  if (failed) throw failed.reason;
  return ended.map(({ value }) => value);
}

/** Processes that belong to this script and end with it. */
export class Family {
  children = [];
  ending = false;

  start(name, command, args, { env = {}, log, logFile, cwd = root } = {}) {
    const child = spawn(command, args, {
      cwd,
      env: { ...process.env, ...env },
      stdio: ["ignore", log ?? "inherit", log ?? "inherit"],
    });
    this.children.push({ name, child });
    child.on("exit", (code, signal) => {
      if (this.ending) return;
      const last = logFile ? readFileSync(logFile, "utf8").trim().split("\n").slice(-10).join("\n") : "";
      process.stderr.write(`\n✗ ${name} ended (${signal ?? code}); stopping\n${last}\n`);
      process.exitCode = 1;
      process.kill(process.pid, "SIGTERM");
    });
    return child;
  }

  async end() {
    this.ending = true;
    await Promise.all(
      this.children.map(
        ({ child }) =>
          new Promise((resolve) => {
            if (child.exitCode !== null || child.signalCode !== null) return resolve();
            const last = setTimeout(() => child.kill("SIGKILL"), 8000);
            child.on("exit", () => {
              clearTimeout(last);
              resolve();
            });
            child.kill("SIGTERM");
          }),
      ),
    );
  }
}

/** Resolves when a signal asks the script to stop. */
export function askedToStop() {
  return new Promise((resolve) => {
    for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) process.on(signal, () => resolve());
  });
}

/** Waits until an address answers. */
export async function answers(url, seconds = 300) {
  const until = Date.now() + seconds * 1000;
  for (;;) {
    try {
      const response = await fetch(url, { redirect: "manual" });
      if (response.status < 500) return;
    } catch {}
    if (Date.now() > until) throw new Stop(`${url} does not answer after ${seconds} s`);
    await new Promise((resolve) => setTimeout(resolve, 150));
  }
}

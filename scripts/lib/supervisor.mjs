import { spawn } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
import path from "node:path";
import { startServer } from "./cluster.mjs";
import { root } from "./run.mjs";

/** Keeps processes running: what ends by itself is started again, sooner at first, later the more often it ends. */

const BACKOFF = [500, 1000, 2000, 5000, 10_000, 30_000];
/** Having run for so long, a process counts as one that runs, ms. */
const RUNS = 60_000;
/** How often the private database is looked at, ms. */
const LOOK_EVERY = 1000;
/** How long a process may take to end when it is asked to, ms. */
const PATIENCE = 8000;

/** A line for the log: JSON, as those of the processes. */
function say(level, message, more = {}) {
  process.stdout.write(
    `${JSON.stringify({ level, time: new Date().toISOString(), name: "supervisor", ...more, msg: message })}\n`,
  );
}

function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return error.code === "EPERM";
  }
}

export class Supervisor {
  /** By name: what is to run, and what runs. */
  #kept = new Map();
  #ending = false;
  #database = null;

  /** @param changed told whenever other processes run than before */
  constructor(changed = () => {}) {
    this.changed = changed;
  }

  /** The processes that run now. */
  get children() {
    return [...this.#kept].flatMap(([name, { child }]) => (child ? [{ name, child }] : []));
  }

  /** Starts a process, and again whenever it ends. */
  start(name, command, args, { env = {}, log } = {}) {
    const one = { command, args, env, log, child: null, failures: 0, timer: null };
    this.#kept.set(name, one);
    this.#spawn(name, one);
  }

  #spawn(name, one) {
    const began = Date.now();
    const child = spawn(one.command, one.args, {
      cwd: root,
      env: { ...process.env, ...one.env },
      stdio: ["ignore", one.log ?? "inherit", one.log ?? "inherit"],
    });
    one.child = child;
    child.on("error", () => {});
    child.on("exit", (code, signal) => {
      one.child = null;
      if (this.#ending) return;
      if (Date.now() - began > RUNS) one.failures = 0;
      const wait = BACKOFF[Math.min(one.failures++, BACKOFF.length - 1)];
      say("warn", `${name} ended and is started again`, { process: name, code, signal, wait });
      one.timer = setTimeout(() => this.#spawn(name, one), wait);
    });
    this.changed();
  }

  /** Keeps the server of a private cluster running. @param {{ home: string, port: number, settings?: string[] }} cluster */
  keepDatabase({ home, port, settings }) {
    let failures = 0;
    let busy = false;
    const look = async () => {
      if (busy || this.#ending) return;
      const file = path.join(home, "postmaster.pid");
      const pid = existsSync(file) ? Number(readFileSync(file, "utf8").split("\n")[0]) : 0;
      if (pid > 0 && isAlive(pid)) {
        failures = 0;
        return;
      }
      busy = true;
      const wait = BACKOFF[Math.min(failures++, BACKOFF.length - 1)];
      say("warn", "the database ended and is started again", { process: "postgresql", wait });
      await new Promise((resolve) => setTimeout(resolve, wait));
      try {
        if (!this.#ending) await startServer(home, port, settings);
        say("info", "the database runs again", { process: "postgresql" });
      } catch (error) {
        say("error", `the database does not start: ${error.message}`, { process: "postgresql" });
      }
      busy = false;
    };
    this.#database = setInterval(() => void look(), LOOK_EVERY);
  }

  /** Ends everything; nothing is started again. */
  async end() {
    this.#ending = true;
    clearInterval(this.#database);
    await Promise.all(
      [...this.#kept.values()].map(({ child, timer }) => {
        clearTimeout(timer);
        if (!child || child.exitCode !== null || child.signalCode !== null) return undefined;
        return new Promise((resolve) => {
          const last = setTimeout(() => child.kill("SIGKILL"), PATIENCE);
          child.on("exit", () => {
            clearTimeout(last);
            resolve();
          });
          child.kill("SIGTERM");
        });
      }),
    );
  }
}

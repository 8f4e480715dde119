import { existsSync } from "node:fs";
import { run } from "./run.mjs";
import { Stop, step } from "./say.mjs";

export const POSTGRES_BIN = "/usr/lib/postgresql/15/bin";
/** Chromium without a window: a page in it takes a fraction of what the whole browser takes. */
const HEADLESS_CHROMIUM = "/usr/lib/chromium/chromium-headless-shell";
const WHOLE_CHROMIUM = "/usr/bin/chromium";

/** The browser that tests and page times use. */
export const chromium = () => (existsSync(HEADLESS_CHROMIUM) ? HEADLESS_CHROMIUM : WHOLE_CHROMIUM);

/** Another store of memory for our processes: it gives back what threads no longer use. They run without it too. */
export const JEMALLOC = `/usr/lib/${process.arch === "arm64" ? "aarch64" : "x86_64"}-linux-gnu/libjemalloc.so.2`;

const NEEDED = {
  postgresql: { package: "postgresql-15", file: `${POSTGRES_BIN}/initdb` },
  chromium: { package: "chromium-headless-shell", file: HEADLESS_CHROMIUM, instead: WHOLE_CHROMIUM },
  jemalloc: { package: "libjemalloc2", file: JEMALLOC, optional: true },
  nginx: { package: "nginx-light", file: "/usr/sbin/nginx" },
  openssl: { package: "openssl", file: "/usr/bin/openssl" },
  systemd: { package: "systemd", file: "/usr/bin/systemd-analyze" },
};

/** Installs what is missing of Debian's packages. Optional ones, and those that another stands in for, may stay missing. @param {("postgresql" | "chromium" | "systemd" | "jemalloc" | "nginx" | "openssl")[]} names */
export async function ensurePackages(names) {
  const canDoWithout = ({ optional, instead }) => optional || (instead !== undefined && existsSync(instead));
  const missing = names.map((name) => NEEDED[name]).filter(({ file }) => !existsSync(file));
  if (missing.length === 0) return;
  const packages = missing.map((one) => one.package);
  const byHand = `sudo apt-get update && sudo apt-get install -y ${packages.join(" ")}`;
  step(`Installing ${packages.join(", ")} from Debian's packages`);
  const asRoot = process.getuid() === 0;
  // Debian's package would start a cluster of its own; ours is private and started by us.
  const env = { DEBIAN_FRONTEND: "noninteractive", RUNLEVEL: "1" };
  const apt = (args) =>
    asRoot ? run("apt-get", args, { quiet: true, env }) : run("sudo", ["-n", "apt-get", ...args], { quiet: true, env });
  try {
    await apt(["update", "-qq"]);
    await apt(["install", "-y", "-qq", "--no-install-recommends", ...packages]);
  } catch (error) {
    if (missing.every(canDoWithout)) return;
    throw new Stop(`${packages.join(" and ")} could not be installed. Please run:\n  ${byHand}\n\n${error.message}`);
  }
  for (const one of missing)
    if (!canDoWithout(one) && !existsSync(one.file)) throw new Stop(`${one.file} is missing. Please run:\n  ${byHand}`);
}

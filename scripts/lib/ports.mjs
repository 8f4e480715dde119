import net from "node:net";
import { Stop } from "./say.mjs";

/** The ports in use, each changed by one variable. */
export const ports = {
  web: { variable: "TIN_WEB_PORT", value: Number(process.env.TIN_WEB_PORT ?? 4300) },
  intake: { variable: "TIN_INTAKE_PORT", value: Number(process.env.TIN_INTAKE_PORT ?? 4318) },
  grpc: { variable: "TIN_INTAKE_GRPC_PORT", value: Number(process.env.TIN_INTAKE_GRPC_PORT ?? 4317) },
  database: { variable: "TIN_DATABASE_PORT", value: Number(process.env.TIN_DATABASE_PORT ?? 54329) },
};

function isFree(port) {
  return new Promise((resolve) => {
    const probe = net.createServer();
    probe.once("error", () => resolve(false));
    probe.listen(port, "127.0.0.1", () => probe.close(() => resolve(true)));
  });
}

/** @throws Stop where a port is taken, with the way to choose another */
export async function ensureFree(...names) {
  for (const name of names) {
    const { variable, value } = ports[name];
    if (!(await isFree(value)))
      throw new Stop(
        `Port ${value} (${name}) is taken. Choose another: ${variable}=${value + 1000} npm run ${process.env.npm_lifecycle_event ?? "demo"}`,
      );
  }
}

/** A port that is free now. */
export function freePort() {
  return new Promise((resolve, reject) => {
    const probe = net.createServer();
    probe.once("error", reject);
    probe.listen(0, "127.0.0.1", () => {
      const { port } = probe.address();
      probe.close(() => resolve(port));
    });
  });
}

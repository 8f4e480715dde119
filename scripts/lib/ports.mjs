import { isFree } from "./freePort.mjs";
import { Stop } from "./say.mjs";
import { settingOf } from "./settings.mjs";

/** The ports in use, each set by one variable. */
export const ports = Object.fromEntries(
  Object.entries({
    web: "TIN_WEB_PORT",
    intake: "TIN_INTAKE_PORT",
    grpc: "TIN_INTAKE_GRPC_PORT",
    database: "TIN_DATABASE_PORT",
  }).map(([name, variable]) => [name, { variable, value: Number(settingOf(variable)) }]),
);

/** @throws Stop where a port is taken, with the way to choose another */
export async function ensureFree(...names) {
  for (const name of names) {
    const { variable, value } = ports[name];
    if (!Number.isInteger(value) || value < 0 || value > 65_535)
      throw new Stop(`${variable} is set to "${settingOf(variable)}"; a port, a whole number up to 65535, is expected`);
    if (!(await isFree(value)))
      throw new Stop(
        `Port ${value} (${name}) is taken. Choose another: ${variable}=${value + 1000} npm run ${process.env.npm_lifecycle_event ?? "demo"}`,
      );
  }
}

import http from "node:http";
import { BlockList, isIPv6 } from "node:net";
import path from "node:path";
import next from "next";
import pino from "pino";
import { CALLER_HEADER } from "@/core/http/callerHeader";
import { originsIn } from "@/core/http/framers";
import { networksIn } from "@/core/http/networks";
import { callerAddress } from "@/core/http/served";
import { checkSettings, setting } from "@/core/settings/environment";
import { SettingError } from "@/core/settings/settings";
import { connect } from "@/store/database/connect";
import { checkListening } from "./beyond";
import { builtFiles } from "./builtFiles";

/** The web process: pages and API. It notes where each caller is before anything else sees the request. */

const log = pino({ name: "web", level: setting("LOG_LEVEL") });
let serving = false;
process.on("uncaughtException", (error) => {
  // One request that goes wrong in a way that nobody foresaw takes no other along.
  if (serving) return log.error(error, "a request failed outside its handler");
  log.fatal(error, error instanceof SettingError ? error.message : "the web ends");
  process.exit(1);
});

/** Others, such as TRACE, are refused before anything reads the request. */
const METHODS = new Set(["GET", "HEAD", "POST", "PUT", "DELETE", "OPTIONS"]);

/** For how long an idle connection stays open, ms: longer than who calls keeps it, so that nobody sends into a closing one. */
const KEEP_ALIVE = 75_000;

checkSettings();
const [hostname, port] = [setting("TIN_HOST"), setting("TIN_WEB_PORT")];
const trusted = new BlockList();
for (const { address, bits, family } of networksIn(setting("TIN_TRUSTED_PROXIES"), "TIN_TRUSTED_PROXIES"))
  trusted.addSubnet(address, bits, family);
const isTrusted = (address: string) => trusted.check(address, isIPv6(address) ? "ipv6" : "ipv4");

originsIn(setting("TIN_FRAME_ORIGINS"), "TIN_FRAME_ORIGINS");

const pool = connect({ max: 1 });
await checkListening(pool);
await pool.end();

const app = next({ dev: false, hostname, port });
const handle = app.getRequestHandler();
await app.prepare();
const handOut = builtFiles(path.resolve(".next"));
const server = http.createServer((request, response) => {
  const { headers, socket } = request;
  // A caller that goes away while it sends is no fault of ours.
  request.on("error", () => {});
  if (handOut(request, response)) return;
  if (!METHODS.has(request.method ?? "")) {
    response.writeHead(405, { Allow: [...METHODS].join(", "), "Cache-Control": "no-store" }).end();
    return;
  }
  const forwarded = headers["x-forwarded-for"];
  const peer = socket.remoteAddress ?? "";
  headers[CALLER_HEADER] = callerAddress(peer, Array.isArray(forwarded) ? forwarded.join() : forwarded, isTrusted);
  void handle(request, response);
});
server.keepAliveTimeout = KEEP_ALIVE;
server.on("error", (error: NodeJS.ErrnoException) => {
  log.fatal(error.code === "EADDRINUSE" ? `port ${port} is taken; choose another with TIN_WEB_PORT` : error);
  process.exit(1);
});
server.listen(port, hostname, () => {
  serving = true;
  log.info(`pages are at http://${hostname}:${port}`);
});

function stop(): void {
  server.close(() => process.exit(0));
  server.closeIdleConnections();
  // Answers that are on their way have a moment.
  setTimeout(() => process.exit(0), 3000).unref();
}
process.on("SIGTERM", stop);
process.on("SIGINT", stop);

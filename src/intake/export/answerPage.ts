import { timingSafeEqual } from "node:crypto";
import type http from "node:http";
import type pg from "pg";
import type { PipelineConfig } from "@/core/pipeline/config";
import { openExporterSecrets } from "@/store/exports/exporterSecrets";
import { RequestError } from "../receive/body";
import type { OtherAnswer } from "../receive/server";
import { pageOf } from "./runner";

const TYPE = "application/openmetrics-text; version=1.0.0; charset=utf-8";
/** The name under which the token of a page is kept. */
const TOKEN = "token";

function same(a: string, b: string): boolean {
  const [one, other] = [Buffer.from(a), Buffer.from(b)];
  return one.length === other.length && timingSafeEqual(one, other);
}

/** GET /exports/ID: the page of an exporter. @throws RequestError 401, 404, 405 */
export async function answerPage(
  pool: pg.Pool,
  config: PipelineConfig,
  path: string,
  request: http.IncomingMessage,
): Promise<OtherAnswer> {
  const id = path.slice("/exports/".length);
  const exporter = config.exporters.find((one) => one.id === id);
  if (exporter?.type !== "openmetrics" || !exporter.on)
    throw new RequestError(404, `the live pipeline has no page called ${JSON.stringify(id)}`, 5);
  if (request.method !== "GET") throw new RequestError(405, "a page is read with GET", 3);
  const token = (await openExporterSecrets(pool, id, ""))[TOKEN];
  if (token === undefined) {
    if (!exporter.open)
      throw new RequestError(
        401,
        "this page has no token yet, and is not open to everybody: give it one, or open it, on the Pipeline page",
        16,
      );
  } else if (!same(request.headers.authorization ?? "", `Bearer ${token}`))
    throw new RequestError(401, "this page is read with its token: Authorization: Bearer …", 16);
  return { status: 200, type: TYPE, body: (await pageOf(pool, id, Date.now())) ?? "# EOF\n" };
}

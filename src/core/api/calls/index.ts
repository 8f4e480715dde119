import type { Call, Method } from "../call";
import * as access from "./access";
import * as comparisons from "./comparisons";
import * as contracts from "./contracts";
import * as instruments from "./instruments";
import * as people from "./people";
import * as pipeline from "./pipeline";
import * as readings from "./readings";
import * as releases from "./releases";
import * as senders from "./senders";
import * as services from "./services";
import * as shared from "./shared";
import * as sheets from "./sheets";
import * as store from "./store";
import * as system from "./system";

/** Every call of the API, by topic. A file of calls is one line here. */

const TOPICS = {
  readings,
  releases,
  comparisons,
  services,
  sheets,
  shared,
  instruments,
  contracts,
  pipeline,
  store,
  senders,
  access,
  people,
  system,
};

function isCall(one: unknown): one is Call {
  return typeof one === "object" && one !== null && "method" in one && "path" in one;
}

/** A call with its name and topic. */
export interface NamedCall {
  name: string;
  topic: string;
  call: Call;
}

export const ALL_CALLS: readonly NamedCall[] = Object.entries(TOPICS).flatMap(([topic, module]) =>
  Object.entries<unknown>(module).flatMap(([name, one]) => (isCall(one) ? [{ name, topic, call: one }] : [])),
);

type CallsIn<T> = { [K in keyof T]: T[K] extends { method: Method; path: string } ? T[K] : never }[keyof T];
type EveryCall = { [T in keyof typeof TOPICS]: CallsIn<(typeof TOPICS)[T]> }[keyof typeof TOPICS];

/** Every call by its method and path: "GET /api/reading". */
export type Contract = { [C in EveryCall as `${C["method"]} ${C["path"]}`]: C };

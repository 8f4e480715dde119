import { caches } from "./caches";
import { calls } from "./calls";
import { databases } from "./databases";
import type { ReadySheet } from "./definition";
import { hosts } from "./hosts";
import { queues } from "./queues";
import { runtimes } from "./runtimes";

/** Every ready sheet, in the order in which they are offered: one is a file here, and a line. */
export const READY: readonly ReadySheet[] = [calls, databases, queues, caches, runtimes, hosts];

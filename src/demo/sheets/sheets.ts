import type { Sheet } from "@/core/sheet/sheet";
import { courier } from "./courier";
import { estimator } from "./estimator";
import { hosts } from "./hosts";
import { loans } from "./loans";
import { lockers } from "./lockers";
import { morning } from "./morning";

/** The sheets that people of Fern & Anvil keep, by id, with who saved each and why. */
export const DEMONSTRATION_SHEETS: readonly { id: string; sheet: Sheet; who: string; note: string }[] = [
  { id: "morning-look", sheet: morning, who: "Ottilie Marsh", note: "what we look at first" },
  { id: "loans-in-plain-words", sheet: loans, who: "Quill Anvil", note: "for the Tuesday meeting" },
  { id: "estimator-rollout", sheet: estimator, who: "Quill Anvil", note: "2.0.0 goes out" },
  { id: "courier-trouble", sheet: courier, who: "Ottilie Marsh", note: "after the bad Saturday" },
  { id: "hosts-and-runtimes", sheet: hosts, who: "Ottilie Marsh", note: "since the catalogue leaks" },
  { id: "lockers", sheet: lockers, who: "Quill Anvil", note: "firmware 3.2" },
];

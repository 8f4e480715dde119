/** What the teams of Fern & Anvil said of their releases, and how they look at them. */

interface Announced {
  service: string;
  version: string;
  environment: string;
  commit: string;
  author: string;
  notes: string;
  share?: number;
}

const environment = "production";

export const ANNOUNCED: readonly Announced[] = [
  {
    service: "loans",
    version: "5.3.0",
    environment,
    commit: "4be21f07c9a3",
    author: "Quill Anvil",
    notes: "Loans can be extended from the locker; looks up who waits for the tool.",
    share: 0.2,
  },
  {
    service: "loans",
    version: "5.2.4",
    environment,
    commit: "e07d19b2a6f8",
    author: "Ottilie Marsh",
    notes: "Takes back what 5.2.3 changed in the reservation.",
  },
  {
    service: "loans",
    version: "5.2.3",
    environment,
    commit: "91c5d3e80b14",
    author: "Quill Anvil",
    notes: "Reservations of several tools at once.",
  },
  {
    service: "estimator",
    version: "2.0.0",
    environment,
    commit: "c83a60f5d127",
    author: "Ottilie Marsh",
    notes: "Deposits by the age of a tool.",
    share: 0.2,
  },
  {
    service: "catalogue",
    version: "2.8.1",
    environment,
    commit: "7d4f8821e5c0",
    author: "Quill Anvil",
    notes: "Keeps photos in memory.",
  },
];

/** Quotes are what the estimator is for: its own histogram of them has finer buckets than that of calls. */
export const ESTIMATOR_SETTING = {
  service: "estimator",
  environment,
  setting: { metric: "fee.quote.duration" },
};

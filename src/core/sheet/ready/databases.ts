import type { ReadySheet } from "./definition";
import { EVERY_ONE, parted, timedBands } from "./timed";

/** Calls of databases and the pools of their connections, by the conventions for database clients. */

const TIMED = ["db.client.operation.duration"];
const OPERATIONS = ["db.operation.name", "db.query.summary", "db.collection.name", "db.namespace"];

export const databases: ReadySheet = {
  id: "databases",
  name: "Databases",
  purpose: "what a service asks its databases, how long it waits for them, and whether its connections suffice",
  bands: [
    ...timedBands({ section: "Database", work: "database", of: TIMED }),
    {
      title: "Operations",
      section: "Database",
      work: "database",
      of: TIMED,
      plates: [
        ...parted("operation", OPERATIONS),
        EVERY_ONE,
        {
          title: "Operation by operation",
          by: OPERATIONS,
          text: [
            'rate of {metric} where {where} by {by} as "how many"',
            'p95 of {metric} where {where} by {by} as "how long, p95"',
            'sum of {metric} where {where} by {by} as "all together"',
          ],
          as: "table",
          settings: { top: 40 },
        },
      ],
    },
    {
      title: "Connections",
      section: "Database",
      plates: [
        {
          title: "Connections",
          of: ["db.client.connection.count", "db.client.connections.usage"],
          by: ["db.client.connection.state", "state", "release"],
          text: "mean of {metric} where {where} by {by}",
        },
        {
          title: "Waiting for a connection",
          of: ["db.client.connection.pending_requests", "db.client.connections.pending_requests"],
          text: "max of {metric} where {where} by release",
        },
        {
          title: "How long they wait for one, p95",
          of: ["db.client.connection.wait_time", "db.client.connections.wait_time"],
          text: "p95 of {metric} where {where} by release",
        },
        {
          title: "Waited in vain",
          of: ["db.client.connection.timeouts", "db.client.connections.timeouts"],
          text: "rate of {metric} where {where} by release",
        },
      ],
      others: /^db\.client\./,
    },
  ],
};

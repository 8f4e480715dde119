import type { ReadySheet } from "./definition";
import { EVERY_ONE, parted, timedBands } from "./timed";

/** Messages, queues and jobs: the conventions for messaging, and whatever is called a queue or a job. */

const WORKED = ["messaging.process.duration", "messaging.client.operation.duration"];
const PLACES = ["messaging.destination.name", "messaging.operation.name"];

export const queues: ReadySheet = {
  id: "queues",
  name: "Queues and jobs",
  purpose: "what waits, what is worked off, how long that takes and what fails",
  bands: [
    ...timedBands({ section: "Messages", work: "messages", of: WORKED }),
    {
      title: "Destinations",
      section: "Messages",
      work: "messages",
      of: WORKED,
      plates: [...parted("destination", PLACES), EVERY_ONE],
    },
    {
      title: "Sent and taken",
      section: "Queues",
      plates: [
        {
          title: "Sent",
          of: ["messaging.client.sent.messages", "messaging.client.published.messages"],
          by: ["messaging.destination.name", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
        {
          title: "Taken",
          of: ["messaging.client.consumed.messages"],
          by: ["messaging.destination.name", "release"],
          text: "rate of {metric} where {where} by {by}",
        },
      ],
    },
    { title: "Queues", plates: [], others: /(^|[._])(queues?|jobs?)([._]|$)|^messaging\.client\./ },
  ],
};

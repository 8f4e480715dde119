import fc from "fast-check";
import type { LogRecord } from "../log/model";
import type { Attributes } from "../metric/model";
import { SPAN_KINDS, SPAN_STATUSES, type Span } from "../span/model";

/** Made-up spans and log records for property tests. */

const hex = (digits: number) =>
  fc
    .array(fc.constantFrom(..."0123456789abcdef"), { minLength: digits, maxLength: digits })
    .map((all) => all.join(""))
    .filter((text) => /[1-9a-f]/.test(text));

const scalar = fc.oneof(
  fc.string({ maxLength: 12 }).filter((text) => !text.includes("\u0000") && text.isWellFormed()),
  fc.boolean(),
  fc.integer(),
  // A whole double beyond what an integer holds would come back with a note of its type.
  fc
    .double({ noNaN: true, noDefaultInfinity: true })
    .filter((value) => !Object.is(value, -0) && (!Number.isInteger(value) || Number.isSafeInteger(value))),
);

const key = fc.constantFrom("depot", "tool.kind", "http.route", "status", "size", "member");

export const anyAttributes: fc.Arbitrary<Attributes> = fc.dictionary(
  key,
  fc.oneof(scalar, fc.array(scalar, { maxLength: 3 })),
  { maxKeys: 4, noNullPrototype: true },
);

const resource = fc.constantFrom<Attributes>(
  { "service.name": "loans", "service.version": "5.3.0" },
  { "service.name": "lockers" },
);
const scope = fc.constantFrom({ name: "", version: "" }, { name: "fern-anvil", version: "2" });
export const ORIGIN = 1_764_000_000_000;
const time = fc.record({ ms: fc.integer({ min: ORIGIN, max: ORIGIN + 60_000 }), ns: fc.nat(999_999) });

export const anySpan: fc.Arbitrary<Span> = fc
  .record({
    resource,
    scope,
    traceId: hex(32),
    spanId: hex(16),
    parentId: fc.oneof(fc.constant(""), hex(16)),
    state: fc.constantFrom("", "vendor=1", "ot=rv:0123456789abcd"),
    flags: fc.nat(1023),
    name: fc.constantFrom("GET /tools", "POST /loans", "open door"),
    kind: fc.constantFrom(...SPAN_KINDS),
    when: time,
    took: fc.integer({ min: 1, max: 20_000_000_000 }),
    status: fc.constantFrom(...SPAN_STATUSES),
    statusMessage: fc.constantFrom("", "no tool left"),
    attributes: anyAttributes,
    events: fc.array(
      fc.record({ when: time, name: fc.constantFrom("retried", "exception"), attributes: anyAttributes }),
      { maxLength: 2 },
    ),
    links: fc.array(
      fc.record({ traceId: hex(32), spanId: hex(16), state: fc.constant(""), attributes: anyAttributes }),
      { maxLength: 1 },
    ),
    dropped: fc.tuple(fc.nat(3), fc.nat(3), fc.nat(3)),
  })
  .map(({ when, events, ...rest }) => ({
    ...rest,
    ...when,
    events: events.map(({ when: at, ...event }) => ({ ...event, ...at })),
  }));

export const anyLogRecord: fc.Arbitrary<LogRecord> = fc
  .record({
    resource,
    scope,
    when: time,
    observed: time,
    severity: fc.nat(24),
    severityText: fc.constantFrom("", "error", "info"),
    body: fc.oneof(
      fc.constantFrom('level=error msg="no answer" took=14.2', "plain words", '{"took": 3, "inner": {"a": true}}'),
      anyAttributes,
    ),
    attributes: anyAttributes,
    ids: fc.oneof(fc.constant({ traceId: "", spanId: "" }), fc.record({ traceId: hex(32), spanId: hex(16) })),
    flags: fc.nat(255),
    eventName: fc.constantFrom("", "door.opened"),
    droppedAttributes: fc.nat(3),
  })
  .map(({ when, observed, ids, ...rest }) => ({
    ...rest,
    ...when,
    ...ids,
    observedMs: observed.ms,
    observedNs: observed.ns,
  }));

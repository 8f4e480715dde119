import fc from "fast-check";
import { LOOKS, lookAs } from "./looks";
import type { Pick } from "./pick";
import { type Band, type Plate, type Sheet, sheet } from "./sheet";

/** Sheets for property tests. */

const NAMES = ["depot", "kind", "Plan", "zone_2", "tür"];
const READINGS = [
  "rate of loan.reserved by depot top 3",
  "p95 of locker.open.duration where depot is <depot> by release over 5m",
  'count of loan.reserved where depot is one of (<depot>, "Brindle") and tool.kind is <kind>',
  'share of http.server.request.duration that http.response.status_code >= 500 where service is "<depot>"',
  "last of reminder.queue.depth where state is <",
];

const text = fc.string({ maxLength: 12 }).map((one) => one.trim());

const source: fc.Arbitrary<Pick["source"]> = fc.oneof(
  fc.constant<Pick["source"]>({ of: "list", values: ["Brindle", "Candlewick"] }),
  fc.constant({ of: "text" as const }),
  fc
    .record({
      attribute: fc.constantFrom("depot", "tool.kind"),
      where: fc.constantFrom("", "depot is <depot>", "tool.kind is <kind> and depot is <depot>", "tool.kind is"),
    })
    .map(({ attribute, where }) => ({
      of: "values" as const,
      attribute,
      metric: "loan.reserved",
      where,
      pattern: "",
    })),
  fc.constantFrom("", "loans", "<depot>", "<kind>").map((service) => ({ of: "releases" as const, service })),
  fc.constant({ of: "services" as const }),
);

const anyPick = (name: string): fc.Arbitrary<Pick> =>
  fc
    .record({ source, many: fc.boolean(), all: fc.boolean(), preset: fc.constantFrom<string[]>([], ["Brindle"]) })
    .map((rest) => ({ name, words: name, ...rest }));

const body = fc.oneof(
  fc
    .record({
      readings: fc.array(
        fc.record({
          text: fc.constantFrom(...READINGS),
          names: fc.constantFrom("", "{depot}"),
          unit: fc.constantFrom("", "ms"),
          decimals: fc.constantFrom(null, 2),
        }),
        { minLength: 1, maxLength: 3 },
      ),
      look: fc.constantFrom(...LOOKS.map(({ as }) => as)).map((as) => lookAs(as)),
    })
    .map((rest) => ({ holds: "readings" as const, ...rest })),
  fc.constantFrom("", "See <depot>: /sheets/a?pick.depot=x").map((note) => ({ holds: "note" as const, note })),
);

const anyPlate = (id: string): fc.Arbitrary<Plate> =>
  fc
    .tuple(body, fc.constantFrom("", "Doors in <depot>", "Loans"), fc.integer({ min: 1, max: 6 }))
    .map(([rest, title, width]) => ({ id, title, width, ...rest }) as Plate);

/** A plate that no sheet of these has. */
export const anyNewPlate: fc.Arbitrary<Plate> = anyPlate("brand-new");

export const anySheet: fc.Arbitrary<Sheet> = fc
  .record({
    name: text.map((one) => one || "A sheet"),
    purpose: text,
    tags: fc.uniqueArray(fc.constantFrom("loans", "daily", "hosts")),
    readers: fc.constantFrom<string[]>([], ["quill@fern-anvil.example"]),
    picks: fc.subarray(NAMES).chain((names) => fc.tuple(...names.map(anyPick))),
    bands: fc
      .array(fc.integer({ min: 0, max: 4 }), { maxLength: 4 })
      .chain((counts) =>
        fc.tuple(
          ...counts.map((count, b) =>
            fc
              .tuple(text, fc.boolean(), fc.tuple(...Array.from({ length: count }, (_, p) => anyPlate(`p${b}-${p}`))))
              .map(([title, folded, plates]): Band => ({ id: `b${b}`, title, folded, plates })),
          ),
        ),
      ),
  })
  .map((one) => sheet.parse(one));

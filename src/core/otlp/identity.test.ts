import { packBatch, unpackBatch } from "../pipeline/block";
import type { Batch } from "./batch/batch";
import { Dictionary, identityOfKey, seriesKey } from "./dictionary";
import { encodeMessage } from "./encode";
import { decodeMetricsJson } from "./json";
import { decodeMetrics } from "./protobuf";
import { keyValues } from "./values";

/** Series that differ on the wire stay apart, whichever way they come and wherever they go. */

type Value = Record<string, unknown>;
const POINT = { timeUnixNano: "1764000000000000000", asInt: "1" };

function request(points: { attributes?: object[]; scope?: object; resource?: object }[]) {
  return {
    resourceMetrics: points.map(({ attributes = [], scope = {}, resource = { attributes: [] } }) => ({
      resource,
      scopeMetrics: [
        {
          scope,
          metrics: [
            {
              name: "m",
              sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints: [{ ...POINT, attributes }] },
            },
          ],
        },
      ],
    })),
  };
}

const ways: [string, (body: object, dictionary: Dictionary) => Batch][] = [
  ["JSON", (body, dictionary) => decodeMetricsJson(JSON.stringify(body), dictionary)],
  [
    "protobuf",
    (body, dictionary) => decodeMetrics(encodeMessage("ExportMetricsServiceRequest", body as never), dictionary),
  ],
];

const of = (value: Value) => [{ attributes: [{ key: "a", value }] }];
const cases: [string, ReturnType<typeof of> | { scope?: object }[]][] = [
  [
    "integers beyond what a number holds",
    [...of({ intValue: "9007199254740992" }), ...of({ intValue: "9007199254740993" })],
  ],
  ["an integer and a double", [...of({ intValue: "5" }), ...of({ doubleValue: 5 })]],
  [
    "a large integer and its text",
    [...of({ intValue: "9007199254740993" }), ...of({ stringValue: "9007199254740993" })],
  ],
  ["a number and its text", [...of({ intValue: "5" }), ...of({ stringValue: "5" })]],
  ["not a number and its text", [...of({ doubleValue: Number.NaN }), ...of({ stringValue: "NaN" })]],
  [
    "lists of integers and of doubles",
    [...of({ arrayValue: { values: [{ intValue: "5" }] } }), ...of({ arrayValue: { values: [{ doubleValue: 5 }] } })],
  ],
  [
    "scopes by their attributes",
    [
      { scope: { name: "s", attributes: [{ key: "side", value: { stringValue: "left" } }] } },
      { scope: { name: "s", attributes: [{ key: "side", value: { stringValue: "right" } }] } },
      { scope: { name: "s" } },
    ],
  ],
];

describe.each(ways)("in %s", (_, decode) => {
  test.each(cases)("%s are series of their own", (_name, points) => {
    const dictionary = new Dictionary();
    const body = JSON.parse(JSON.stringify(request(points), (_key, value) => (Number.isNaN(value) ? "NaN" : value)));
    const batch = decode(_ === "JSON" ? body : request(points), dictionary);
    const keys = new Set([...batch.series()].map(({ key }) => key));
    expect(keys.size).toBe(points.length);
    // What a key was made of makes the same key again, and so does a batch that was put by.
    for (const key of keys) expect(seriesKey(identityOfKey(key))).toBe(key);
    const again = unpackBatch(packBatch(batch), new Dictionary());
    expect(new Set([...again.series()].map(({ key }) => key))).toEqual(keys);
  });
});

test("values go out with the type that they came with", () => {
  const values: Value[] = [
    { intValue: "9007199254740993" },
    { doubleValue: 5 },
    { intValue: "5" },
    { stringValue: "5" },
  ];
  for (const value of values) {
    const batch = decodeMetricsJson(JSON.stringify(request(of(value))), new Dictionary());
    const [{ identity }] = batch.series();
    expect(keyValues(identity.attributes)).toEqual([{ key: "a", value }]);
    // Also where a step of the pipeline copied the attributes.
    expect(keyValues({ ...identity.attributes })).toEqual([{ key: "a", value }]);
  }
});

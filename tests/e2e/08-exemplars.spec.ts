import { expect, test } from "@playwright/test";
import pg from "pg";
import { post } from "./helpers";

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
test.afterAll(() => pool.end());

test("exemplars are kept with their trace, once, however often they are sent", async () => {
  const now = Date.now();
  const body = {
    resourceMetrics: [
      {
        resource: { attributes: [{ key: "service.name", value: { stringValue: "tracer" } }] },
        scopeMetrics: [
          {
            metrics: [
              {
                name: "traced.duration",
                unit: "s",
                histogram: {
                  aggregationTemporality: 2,
                  dataPoints: [
                    {
                      timeUnixNano: `${now}000123`,
                      startTimeUnixNano: `${now - 5000}000000`,
                      count: "1",
                      sum: 0.25,
                      explicitBounds: [0.1, 1],
                      bucketCounts: ["0", "1", "0"],
                      exemplars: [
                        {
                          timeUnixNano: `${now - 1000}000456`,
                          asDouble: 0.25,
                          traceId: "5B8EFFF798038103D269B633813FC60C",
                          spanId: "EEE19B7EC3C1B174",
                          filteredAttributes: [{ key: "member", value: { intValue: "7" } }],
                        },
                      ],
                    },
                  ],
                },
              },
            ],
          },
        ],
      },
    ],
  };
  for (let i = 0; i < 3; i++) expect(await post(body)).toBe(200);
  const { rows } = await pool.query(
    "SELECT ms, ns, value, trace_id, span_id, e.attributes FROM exemplar e JOIN metric m ON m.id = e.metric_id WHERE m.name = 'traced.duration'",
  );
  expect(rows).toEqual([
    {
      ms: String(now - 1000),
      ns: 456,
      value: 0.25,
      trace_id: "5b8efff798038103d269b633813fc60c",
      span_id: "eee19b7ec3c1b174",
      attributes: { member: 7 },
    },
  ]);
});

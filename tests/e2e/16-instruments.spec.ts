import { expect, test } from "@playwright/test";
import { INTAKE, WEB } from "./helpers";

const attribute = ([key, stringValue]: [string, string]) => ({ key, value: { stringValue } });

/** Sends one counter with a point per attribute set, from two instances. */
async function sendSets(name: string, sets: Record<string, string>[]): Promise<void> {
  const nanos = `${Date.now()}000000`;
  const body = {
    resourceMetrics: ["a", "b"].map((instance) => ({
      resource: {
        attributes: Object.entries({
          "service.name": "smithy",
          "service.version": "1",
          "service.instance.id": instance,
        }).map(attribute),
      },
      scopeMetrics: [
        {
          metrics: [
            {
              name,
              unit: "{nail}",
              sum: {
                aggregationTemporality: 2,
                isMonotonic: true,
                dataPoints: sets.map((set) => ({
                  asInt: "5",
                  timeUnixNano: nanos,
                  attributes: Object.entries(set).map(attribute),
                })),
              },
            },
          ],
        },
      ],
    })),
  };
  const response = await fetch(`${INTAKE}/v1/metrics`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
  expect(response.status).toBe(200);
}

interface Share {
  name: string;
  place: string;
  distinct: number;
  without: number;
  missing: number;
}

test("cardinality is what counting by hand gives, on random attributes", async () => {
  const pick = (count: number) => String(Math.floor(Math.random() * count));
  const sets = new Map<string, Record<string, string>>();
  for (let i = 0; i < 120; i++) {
    const set = { size: pick(5), forge: pick(4), ...(Math.random() < 0.7 ? { bin: pick(9) } : {}) };
    sets.set(JSON.stringify(set), set);
  }
  const all = [...sets.values()];
  await sendSets("nail.made", all);
  const answer = async () =>
    (await (await fetch(`${WEB}/api/instruments?metric=nail.made`)).json()) as {
      seriesNow: number;
      attributes: Share[];
    };
  await expect.poll(async () => (await answer()).seriesNow).toBe(all.length * 2);
  const { attributes } = await answer();
  for (const key of ["size", "forge", "bin"]) {
    const share = attributes.find(({ name }) => name === key)!;
    const left = new Set(all.map(({ [key]: _, ...rest }: Record<string, string>) => JSON.stringify(rest)));
    expect(share.without).toBe(left.size * 2);
    expect(share.distinct).toBe(new Set(all.flatMap((set: Record<string, string>) => set[key] ?? [])).size);
    expect(share.missing).toBe(all.filter((set: Record<string, string>) => set[key] === undefined).length * 2);
  }
  expect(attributes.find(({ name }) => name === "service.instance.id")!.without).toBe(all.length);
});

test("found by a value, defined as a contract, and held against it", async ({ page }) => {
  test.setTimeout(120_000);
  await sendSets("horseshoe.forged", [{ stable: "Candlewick mews" }]);
  await page.goto("/instruments");
  await page.getByLabel("Find instruments").fill("wick mew");
  await expect(page.getByRole("link", { name: "horseshoe.forged" })).toBeVisible();
  await page.getByRole("link", { name: "horseshoe.forged" }).click();
  await expect(page.getByRole("cell", { name: /Candlewick mews/ })).toBeVisible();
  await page.getByRole("link", { name: "make a contract of it" }).click();
  await page.getByLabel("attribute 1: expected values").fill("Tolland yard");
  await page.getByLabel("what changed, in a few words").fill("only the yard");
  await page.getByLabel("who says so").fill("Ottilie");
  await page.getByRole("button", { name: "Save the contract" }).click();
  await expect(page.getByText("Saved as version 1")).toBeVisible();
  await page.goto("/instruments/one?metric=horseshoe.forged");
  await expect(page.getByText('stable is "Candlewick mews", which the contract does not expect').first()).toBeVisible({
    timeout: 40_000,
  });
  const yaml = await (await fetch(`${WEB}/api/contracts/file`)).text();
  expect(yaml).toContain("name: horseshoe.forged");
  const again = await fetch(`${WEB}/api/contracts/file`, { method: "POST", body: yaml });
  expect(await again.json()).toMatchObject({ saved: [] });
});

test("last points carry exactly the attributes that were sent, and what was received is counted", async () => {
  const sets = [
    { "process.state": "glowing", anvil: "1" },
    { "process.state": "cooling", anvil: "1" },
  ];
  await sendSets("iron.bent", sets);
  const now = Date.now();
  const query = `metric=iron.bent&from=${now - 600_000}&to=${now + 60_000}`;
  const answer = await fetch(`${WEB}/api/instruments/latest?${query}`);
  const { points, exposition } = (await answer.json()) as {
    points: { value: number; attributes: Record<string, string>; resource: Record<string, string> }[];
    exposition: string;
  };
  const sent = ["a", "b"].flatMap((instance) =>
    sets.map((set) => JSON.stringify([instance, set.anvil, set["process.state"], 5])),
  );
  const told = points.map(({ value, attributes, resource }) =>
    JSON.stringify([resource["service.instance.id"], attributes.anvil, attributes["process.state"], value]),
  );
  expect(told.sort()).toEqual(sent.sort());
  const lines = exposition.split("\n").filter((line) => line.startsWith("iron_bent_total{"));
  expect(new Set(lines).size).toBe(4);
  const smiths = async () => {
    const parameters = `from=${now - 3600_000}&to=${Date.now() + 60_000}`;
    const { instances } = (await (await fetch(`${WEB}/api/services?${parameters}`)).json()) as {
      instances: { service: string; instance: string; series: number; points: number }[];
    };
    return instances.filter(({ service }) => service === "smithy");
  };
  expect((await smiths()).map(({ instance }) => instance).sort()).toEqual(["a", "b"]);
  // Every set of the tests above was sent once by each instance: as many points as series.
  await expect.poll(async () => (await smiths()).every(({ series, points: got }) => series === got)).toBe(true);
});

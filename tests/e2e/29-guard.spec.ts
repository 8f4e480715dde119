import http from "node:http";
import net, { type AddressInfo } from "node:net";
import { expect, type Page, test } from "@playwright/test";
import { ownersCookie } from "./asProgram";
import { elsewhere } from "./elsewhere";
import { AS_JSON, countOf, freePort, killHard, post, publish, startWeb, WEB } from "./helpers";

/** What a page of another address on this machine, or of another site, can do to somebody who has Tin Ladder open. */

const PORT = process.env.TIN_WEB_PORT;

async function keys(page: Page): Promise<string[]> {
  const answer = await page.request.get(`${WEB}/api/keys`);
  const { keys: all } = (await answer.json()) as { keys: { name: string }[] };
  return all.map(({ name }) => name);
}

test.beforeAll(async () => {
  expect(await post(countOf("smithy", "coin.weighed", 1, Date.now()))).toBe(200);
});

const KEY = JSON.stringify({ name: "taken from elsewhere", scopes: ["manage"] });

/** What the page tries, by name; each as a browser lets any page do it. */
const TRIES: Record<string, string> = {
  "a fetch that no answer is wanted of": `await fetch(target, { method: "POST", mode: "no-cors", credentials: "include", body: key });`,
  "a fetch as text": `await fetch(target, { method: "POST", headers: { "Content-Type": "text/plain" }, body: key });`,
  "a fetch as JSON": `await fetch(target, { method: "POST", headers: { "Content-Type": "application/json" }, body: key });`,
  "a beacon": `navigator.sendBeacon(target, key);`,
  "a beacon of a blob": `navigator.sendBeacon(target, new Blob([key], { type: "application/json" }));`,
  "a form": `
    const form = document.createElement("form");
    form.method = "post"; form.action = target; form.enctype = "text/plain"; form.target = "sink";
    const input = document.createElement("input");
    input.name = key.slice(0, -1) + ',"rest":"'; input.value = '"}';
    form.append(input); document.body.append(form); form.submit();`,
};

async function tried(page: Page, code: string, target: string): Promise<void> {
  await page.evaluate(
    async ([script, address, key]) => {
      const run = new Function("target", "key", `return (async () => { ${script} })();`);
      await run(address, key).catch(() => {});
      await new Promise((resolve) => setTimeout(resolve, 500));
    },
    [code, target, KEY],
  );
}

test("no page of another address makes a key, in any way that browsers let it try", async ({ page }) => {
  const other = await elsewhere('<!doctype html><iframe name="sink"></iframe>');
  try {
    await page.goto(other.address);
    for (const [name, code] of Object.entries(TRIES))
      for (const host of ["localhost", "127.0.0.1"]) {
        await tried(page, code, `http://${host}:${PORT}/api/keys`);
        expect(await keys(page), name).not.toContain("taken from elsewhere");
      }
  } finally {
    other.close();
  }
});

test("what comes from elsewhere is refused in words, and what comes from here is not", async () => {
  const make = (headers: Record<string, string>) =>
    fetch(`${WEB}/api/readings/lately`, { method: "POST", headers, body: JSON.stringify({ reading: "count of x" }) });
  const json = AS_JSON.headers;
  expect((await make(json)).status).toBe(200);
  expect((await make({ ...json, Origin: `http://127.0.0.1:${PORT}` })).status).toBe(200);
  for (const [headers, status, detail] of [
    [{ ...json, Origin: "http://127.0.0.1:1" }, 403, "another address"],
    [{ ...json, Origin: "https://fern-anvil.example" }, 403, "no other name"],
    [{ ...json, Origin: "null" }, 403, "no other name"],
    [{ "Content-Type": "text/plain" }, 415, "application/json"],
    [{ "Content-Type": "application/x-www-form-urlencoded" }, 415, "application/json"],
  ] as [Record<string, string>, number, string][]) {
    const answer = await make(headers);
    expect(answer.status, JSON.stringify(headers)).toBe(status);
    expect(answer.headers.get("content-type")).toBe("application/problem+json");
    expect(((await answer.json()) as { detail: string }).detail).toContain(detail);
  }
});

test("no page of ours can be put into another's frame", async ({ page }) => {
  const other = await elsewhere(`<!doctype html><iframe src="http://localhost:${PORT}/store"></iframe>`);
  try {
    const refused = page.waitForEvent("console", (message) => /frame-ancestors|X-Frame-Options/i.test(message.text()));
    await page.goto(other.address);
    await refused;
    await expect(page.frameLocator("iframe").getByRole("heading", { name: "Store" })).toHaveCount(0);
  } finally {
    other.close();
  }
});

test("each answer tells the browser what it may do with it", async () => {
  for (const path of ["/releases", "/no/such/page", "/api/overview", "/api/no/such/call", "/api/openapi.json"]) {
    const { headers } = await fetch(`${WEB}${path}`);
    expect(headers.get("x-content-type-options"), path).toBe("nosniff");
    expect(headers.get("x-frame-options"), path).toBe("DENY");
    expect(headers.get("referrer-policy"), path).toBe("same-origin");
    expect(headers.get("permissions-policy"), path).toContain("camera=()");
    expect(headers.get("content-security-policy"), path).toContain("frame-ancestors 'none'");
    expect(headers.get("x-powered-by"), path).toBeNull();
  }
});

test("a document's policy names a nonce of its own, and every script in it bears it", async () => {
  const nonces = new Set<string>();
  for (let turn = 0; turn < 3; turn++) {
    const answer = await fetch(`${WEB}/store`, { headers: { Accept: "text/html", Cookie: ownersCookie() } });
    const policy = answer.headers.get("content-security-policy")!;
    const nonce = /script-src 'self' 'nonce-([^']+)'(?:;|$)/.exec(policy)?.[1] ?? "";
    expect(nonce.length).toBeGreaterThan(20);
    nonces.add(nonce);
    const scripts = (await answer.text()).match(/<script\b[^>]*>/g) ?? [];
    expect(scripts.length).toBeGreaterThan(3);
    for (const script of scripts) expect(script).toContain(`nonce="${nonce}"`);
  }
  expect(nonces.size).toBe(3);
});

test("a script that got into a page does not run", async ({ page }) => {
  await page.goto("/store");
  await expect(page.getByRole("heading", { level: 1, name: "Store" })).toBeVisible();
  const ran = await page.evaluate(async () => {
    const image = document.createElement("div");
    image.innerHTML = `<img src="/none.png" onerror="window.broken = 'handler'">`;
    const script = document.createElement("script");
    script.textContent = "window.broken = 'script'";
    const frame = document.createElement("iframe");
    frame.srcdoc = "<script>parent.broken = 'frame'</script>";
    document.body.append(image, frame);
    document.head.append(script);
    await new Promise((resolve) => setTimeout(resolve, 1000));
    return (window as unknown as { broken?: string }).broken ?? null;
  });
  expect(ran).toBeNull();
});

/** A place that notes how it was asked, and says something that is not meant for everybody. */
async function listener(): Promise<{ url: string; asked: { authorization: string }[]; close: () => void }> {
  const asked: { authorization: string }[] = [];
  const server = http.createServer((request, response) => {
    asked.push({ authorization: request.headers.authorization ?? "" });
    response.statusCode = request.method === "POST" ? 400 : 200;
    response.setHeader("Content-Type", "text/plain");
    response.end("salary of the smith: 4711\nnothing for others");
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", () => resolve()));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    asked,
    close: () => {
      server.close();
      server.closeAllConnections();
    },
  };
}

const send = (path: string, method: string, body: object) =>
  fetch(`${WEB}/api/${path}`, { method, ...AS_JSON, body: JSON.stringify(body) });

test("a target's secret goes to the address only that it was given for", async () => {
  const [ours, theirs] = [await listener(), await listener()];
  const target = {
    ...{ name: "ledger", url: `${ours.url}/metrics`, every: 3_600_000, timeout: 1000, auth: "bearer", username: "" },
    ...{ labels: {}, choice: { type: "all" }, paused: true },
  };
  const made = await send("targets", "POST", { ...target, secret: "smiths only" });
  expect(made.status).toBe(201);
  const { id } = (await made.json()) as { id: number };
  try {
    const moved = { ...target, url: `${theirs.url}/metrics` };
    for (const answer of [
      await send(`targets/${id}`, "PUT", moved),
      await send("targets/try", "POST", { ...moved, id }),
    ]) {
      expect(answer.status).toBe(400);
      expect(((await answer.json()) as { detail: string }).detail).toContain("enter it again");
    }
    expect(theirs.asked).toEqual([]);
    // Where it was given for, it is tried without being told again, and nothing of what is there is shown.
    const tried = await (await send("targets/try", "POST", { ...target, url: `${ours.url}/other`, id })).text();
    expect(ours.asked).toEqual([{ authorization: "Bearer smiths only" }]);
    expect(tried).not.toContain("4711");
    expect(tried).not.toContain("nothing for others");
    // Who knows it may send it elsewhere.
    expect((await send(`targets/${id}`, "PUT", { ...moved, secret: "smiths only" })).status).toBe(200);
  } finally {
    await fetch(`${WEB}/api/targets/${id}`, { method: "DELETE" });
    ours.close();
    theirs.close();
  }
});

test("an exporter's secret goes to the address only that it was given for, and what is answered is not shown", async () => {
  const [ours, theirs] = [await listener(), await listener()];
  const exporter = { id: "ledger", type: "otlp", wait: 0.1, timeout: 1, secrets: ["Authorization"] };
  const to = (url: string) =>
    publish(
      {
        exporters: [
          { id: "store", type: "store" },
          { ...exporter, url },
        ],
      },
      `to ${url}`,
    );
  const failure = async () => {
    const { exporters } = (await (await fetch(`${WEB}/api/pipeline`)).json()) as {
      exporters: { exporter: string; failure: string | null }[];
    };
    return exporters.find((one) => one.exporter === "ledger")?.failure ?? "";
  };
  const body = { exporter: "ledger", name: "Authorization", value: "Bearer of smiths", address: ours.url };
  try {
    expect((await send("pipeline/secrets", "POST", body)).status).toBe(200);
    await to(theirs.url);
    expect(await post(countOf("smithy", "coin.struck", 1, Date.now()))).toBe(200);
    await expect.poll(failure).toContain(`was given for ${ours.url} and is not sent to ${theirs.url}`);
    expect(theirs.asked).toEqual([]);
    await to(ours.url);
    await expect.poll(() => ours.asked.length).toBeGreaterThan(0);
    expect(ours.asked[0]).toEqual({ authorization: "Bearer of smiths" });
    await expect.poll(failure).toContain("400 Bad Request");
    // A copy that stands elsewhere is asked without what was given for the exporter's own address.
    await publish(
      {
        exporters: [
          { id: "store", type: "store" },
          { ...exporter, url: ours.url, copy: `${theirs.url}/copy` },
        ],
      },
      "its copy stands elsewhere",
    );
    const span = `from=${Date.now() - 60_000}&to=${Date.now()}`;
    await fetch(`${WEB}/api/pipeline/compare?exporter=ledger&text=count+of+coin.struck&zone=UTC&${span}`);
    expect(theirs.asked.length).toBeGreaterThan(0);
    for (const { authorization } of theirs.asked) expect(authorization).toBe("");
    expect(await failure()).not.toContain("4711");
  } finally {
    await publish({}, "nothing any more");
    ours.close();
    theirs.close();
  }
});

test("callers that go away while they send end nobody else's web", async () => {
  const port = await freePort();
  const web = await startWeb(port);
  try {
    for (let i = 0; i < 40; i++)
      await new Promise<void>((resolve) => {
        const socket = net.connect(port, "127.0.0.1", () => {
          const head = `POST /api/readings HTTP/1.1\r\nHost: localhost:${port}\r\nContent-Type: application/json\r\nContent-Length: 5000\r\n\r\n`;
          socket.write(`${head}{"readings": [`);
          setTimeout(() => socket.resetAndDestroy(), 5 * (i % 8));
        });
        socket.on("close", () => resolve());
        socket.on("error", () => {});
      });
    expect((await fetch(`http://127.0.0.1:${port}/api/overview`)).status).toBe(200);
    expect(web.exitCode).toBeNull();
  } finally {
    await killHard(web);
  }
});

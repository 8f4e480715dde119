import { expect, test } from "@playwright/test";
import { filledPath, queryText } from "../../src/core/api/address";
import { ALL_CALLS, type NamedCall } from "../../src/core/api/calls";
import { type AccessSystem, asked, firstOwner, invited, startAccessSystem } from "./accessSystem";
import { countOf, post } from "./helpers";

/** Every call, asked by everybody there is: who may was written down by hand. */

let system: AccessSystem;
/** The head that each caller sends. */
const callers: Record<string, Record<string, string>> = {};

test.beforeAll(async () => {
  system = await startAccessSystem("rights");
  const owner = await firstOwner(system);
  const person = (name: string) => ({ name, email: `${name}@fern-anvil.example`, password: `copper ${name} kettle` });
  callers.nobody = {};
  callers.viewer = { Cookie: await invited(system, owner, "viewer", person("marrow")) };
  callers.editor = { Cookie: await invited(system, owner, "editor", person("quill")) };
  callers.owner = { Cookie: owner };
  for (const scope of ["send", "read", "announce", "manage"]) {
    const request = { name: scope, scopes: [scope], environment: "production" };
    const { body } = await asked(system.web, "POST", "/api/keys", request, { Cookie: owner });
    callers[scope] = { Authorization: `Bearer ${body.text as string}` };
  }
});

test.afterAll(() => system?.end());

/** Who may, in words that stand for the callers. */
const WHO: Record<string, string[]> = {
  everybody: ["nobody", "viewer", "editor", "owner", "send", "read", "announce", "manage"],
  "who is signed in": ["viewer", "editor", "owner"],
  "who may look": ["viewer", "editor", "owner", "read", "manage"],
  "who may edit": ["editor", "owner", "manage"],
  "who may announce": ["editor", "owner", "announce", "manage"],
  owners: ["owner", "manage"],
  "owners in person": ["owner"],
  "editors in person": ["editor", "owner"],
  "who may look, in person": ["viewer", "editor", "owner"],
};

/** Written by hand: a call that is not here fails. */
const TABLE: Record<string, string> = {
  "GET /api/health": "everybody",
  "GET /api/openapi.json": "who may look",
  "GET /api/me": "everybody",
  "POST /api/sign-in": "everybody",
  "POST /api/sign-in/code": "everybody",
  "POST /api/sign-out": "who is signed in",
  "POST /api/reset": "everybody",
  "POST /api/reset/password": "everybody",
  "POST /api/first-owner": "everybody",
  "GET /api/invitation": "everybody",
  "POST /api/invitation": "everybody",
  "POST /api/demonstration": "everybody",
  "PUT /api/me": "who is signed in",
  "PUT /api/me/password": "who is signed in",
  "GET /api/me/sessions": "who is signed in",
  "DELETE /api/me/sessions": "who is signed in",
  "DELETE /api/me/sessions/{id}": "who is signed in",
  "POST /api/me/codes": "who is signed in",
  "PUT /api/me/codes": "who is signed in",
  "DELETE /api/me/codes": "who is signed in",
  "POST /api/me/codes/recovery": "who is signed in",
  "GET /api/people": "owners in person",
  "PUT /api/people": "owners in person",
  "PUT /api/people/{id}": "owners in person",
  "POST /api/people/{id}/reset": "owners in person",
  "POST /api/people/invitations": "owners in person",
  "DELETE /api/people/invitations": "owners in person",
  "GET /api/keys": "owners in person",
  "POST /api/keys": "owners in person",
  "DELETE /api/keys/{id}": "owners in person",
  "GET /api/record": "owners in person",
  "GET /api/record/csv": "owners in person",
  "GET /api/mail": "owners in person",
  "POST /api/mail": "owners in person",
  "GET /api/reading": "who may look",
  "POST /api/readings": "who may look",
  "POST /api/readings/lines": "who may look",
  "GET /api/readings/lately": "who may look",
  "POST /api/readings/lately": "who may look",
  "GET /api/export": "who may look",
  "GET /api/overview": "who may look",
  "GET /api/releases": "who may look",
  "GET /api/ladder": "who may look",
  "GET /api/ladder/setting": "who may look",
  "PUT /api/ladder/setting": "who may edit",
  "GET /api/home": "who may look",
  "GET /api/drift": "who may look",
  "GET /api/comparison": "who may look",
  "POST /api/comparisons": "who may edit",
  "GET /api/comparisons/{id}": "who may look",
  "GET /api/releases/{service}/{version}/verdict": "who may look",
  "POST /api/releases": "who may announce",
  "GET /api/rail": "who may look",
  "GET /api/services": "who may look",
  "GET /api/services/sections": "who may look",
  "GET /api/services/metrics": "who may look",
  "GET /api/slow": "who may look",
  "PUT /api/slow": "who may edit",
  "GET /api/sheets": "who may look",
  "POST /api/sheets": "who may edit",
  "GET /api/sheets/{id}": "who may look",
  "PUT /api/sheets/{id}": "who may edit",
  "DELETE /api/sheets/{id}": "who may edit",
  "POST /api/sheets/{id}/back": "who may edit",
  "GET /api/sheets/{id}/versions": "who may look",
  "GET /api/sheets/{id}/draft": "editors in person",
  "PUT /api/sheets/{id}/draft": "editors in person",
  "DELETE /api/sheets/{id}/draft": "editors in person",
  "POST /api/sheets/{id}/opened": "who may look, in person",
  "PUT /api/sheets/{id}/star": "who may look, in person",
  "POST /api/sheets/{id}/links": "who may edit",
  "GET /api/sheets/{id}/links": "who may edit",
  "DELETE /api/sheet-links/{id}": "who may edit",
  "GET /api/shared": "everybody",
  "POST /api/shared/readings": "everybody",
  "POST /api/shared/picks": "everybody",
  "POST /api/picks/values": "who may look",
  "GET /api/repairs": "who may look",
  "GET /api/repairs/empty": "who may look",
  "GET /api/plates": "who may look",
  "POST /api/repairs/preview": "who may look",
  "POST /api/repairs": "who may edit",
  "GET /api/catalogue": "who may look",
  "GET /api/catalogue/attributes": "who may look",
  "GET /api/instruments": "who may look",
  "GET /api/instruments/one": "who may look",
  "GET /api/instruments/latest": "who may look",
  "GET /api/instruments/having": "who may look",
  "GET /api/instruments/advice": "who may look",
  "GET /api/findings": "who may look",
  "GET /api/contracts": "who may look",
  "POST /api/contracts": "who may edit",
  "DELETE /api/contracts": "who may edit",
  "GET /api/contracts/versions": "who may look",
  "GET /api/contracts/file": "who may look",
  "POST /api/contracts/file": "who may edit",
  "GET /api/pipeline/price": "who may look",
  "GET /api/pipeline/growth": "who may look",
  "GET /api/pipeline/compare": "who may look",
  "GET /api/senders": "who may look",
  "PUT /api/senders": "owners",
  "DELETE /api/senders": "who may edit",
  "GET /api/targets": "who may look",
  "POST /api/targets": "owners",
  "PUT /api/targets/{id}": "owners",
  "DELETE /api/targets/{id}": "owners",
  "POST /api/targets/{id}": "owners",
  "POST /api/targets/try": "owners",
  "GET /api/store": "who may look",
  "POST /api/store/keep": "owners",
  "POST /api/store/purge/preview": "who may look",
  "POST /api/store/purge": "owners",
  "DELETE /api/store/aside": "owners",
  "GET /api/pipeline": "who may look",
  "POST /api/pipeline": "owners",
  "GET /api/pipeline/file": "who may look",
  "POST /api/pipeline/file": "who may look",
  "POST /api/pipeline/file/publish": "owners",
  "GET /api/pipeline/records": "who may look",
  "GET /api/pipeline/sample": "who may look",
  "PUT /api/pipeline/price": "who may edit",
  "POST /api/pipeline/secrets": "owners",
};

/** Whether a caller gets past the guard. A body that is none keeps the call itself from doing anything. */
async function getsIn({ call }: NamedCall, head: Record<string, string>): Promise<boolean> {
  const { query = {}, params = { id: "1" } } = call.example;
  const path = `${filledPath(call.path, params)}?${queryText(query)}`;
  const response = await fetch(system.web + path, {
    method: call.method,
    headers: { "Content-Type": "application/json", Cookie: "", ...head },
    ...(call.method === "GET" ? {} : { body: "{" }),
  });
  await response.arrayBuffer();
  if (response.status === 500) throw new Error(`${call.method} ${path} failed`);
  return response.status !== 401 && response.status !== 403;
}

test("every call answers who may and nobody else", async () => {
  const wrong: string[] = [];
  for (const one of ALL_CALLS) {
    const name = `${one.call.method} ${one.call.path}`;
    const who = TABLE[name];
    if (who === undefined) wrong.push(`${name} stands in no row`);
    else
      for (const [caller, head] of Object.entries(callers)) {
        const wanted = WHO[who].includes(caller);
        if ((await getsIn(one, head)) !== wanted) wrong.push(`${name}: ${caller} ${wanted ? "may not" : "may"}`);
      }
  }
  expect(wrong).toEqual([]);
});

test("who may not is told what is needed, and nothing is done", async () => {
  const nobody = await asked(system.web, "GET", "/api/store");
  expect(nobody).toMatchObject({
    status: 401,
    body: {
      title: "Not signed in",
      detail: expect.stringContaining("sign in as a viewer, or send a key with the scope read"),
    },
  });
  expect(nobody.headers.get("www-authenticate")).toContain("Bearer");
  const purge = await asked(system.web, "POST", "/api/store/purge", { metric: "loan.reserved" }, callers.editor);
  expect(purge).toMatchObject({
    status: 403,
    body: { detail: "this needs an owner, and quill is an editor; an owner can change that under Settings, People" },
  });
  const key = await asked(system.web, "PUT", "/api/slow", { percent: 1 }, callers.read);
  expect(key).toMatchObject({
    status: 403,
    body: { detail: 'the key "read" is for read; this needs the scope manage' },
  });
  const { body } = await asked(system.web, "GET", "/api/store", undefined, callers.owner);
  expect(body.purges).toEqual([]);
});

test("documents lead who is not signed in to where they can, and back to the very address", async ({ browser }) => {
  const context = await browser.newContext({ storageState: { cookies: [], origins: [] } });
  const page = await context.newPage();
  await page.goto(`${system.web}/store?last=3h&find=a%26b`);
  await expect(page.getByRole("heading", { name: "Sign in" })).toBeVisible();
  await page.getByLabel("address for mail").fill("quill@fern-anvil.example");
  await page.getByLabel("password", { exact: true }).fill("copper quill kettle");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page).toHaveURL(`${system.web}/store?last=3h&find=a%26b`);
  for (const to of ["//fern-anvil.example/x", "https://fern-anvil.example", "/\\fern-anvil.example"]) {
    // What is open asks on, and would lead to the sign-in by itself.
    await page.goto("about:blank");
    await context.clearCookies();
    await page.goto(`${system.web}/sign-in?to=${encodeURIComponent(to)}`);
    await page.getByLabel("address for mail").fill("quill@fern-anvil.example");
    await page.getByLabel("password", { exact: true }).fill("copper quill kettle");
    await page.getByRole("button", { name: "Sign in" }).click();
    await expect(page).toHaveURL(`${system.web}/`);
    expect(new URL(page.url()).origin).toBe(system.web);
  }
  await context.close();
});

test("pages offer each role what it may do, and say whom to ask for the rest", async ({ browser }) => {
  expect(await post(countOf("loans", "loan.kept", 1, Date.now()), system.intake)).toBe(200);
  for (const role of ["viewer", "editor", "owner"]) {
    const context = await browser.newContext({ storageState: { cookies: [], origins: [] }, baseURL: system.web });
    const [name, value] = callers[role].Cookie.split("=");
    await context.addCookies([{ name, value, url: system.web }]);
    const page = await context.newPage();
    const [edits, owns] = [role !== "viewer", role === "owner"];
    await page.goto("/store");
    await expect(page.getByRole("row", { name: /loan\.kept/ })).toBeVisible();
    await expect(page.getByRole("button", { name: "delete points of loan.kept" })).toHaveCount(owns ? 1 : 0);
    await page.goto("/instruments/define?metric=loan.kept");
    await expect(page.getByRole("button", { name: "Save the contract" })).toHaveCount(edits ? 1 : 0);
    if (!edits) await expect(page.getByText("To save it, ask an editor or an owner.")).toBeVisible();
    await page.goto("/settings/keys");
    await expect(page.getByRole("button", { name: "Make a key" })).toHaveCount(owns ? 1 : 0);
    if (!owns) await expect(page.getByText(/^This is for owners, and you are an? /)).toBeVisible();
    await context.close();
  }
});

test("a sheet for some is there for them and for owners, and for others not even by its name", async () => {
  const to = Date.now();
  const reading = "rate of loan.kept by depot";
  const plates = [{ id: "p", title: "Kept", holds: "readings", readings: [{ text: reading }], look: { as: "lines" } }];
  const sheet = {
    name: "For Quill",
    readers: ["Quill@fern-anvil.example"],
    bands: [{ id: "b", title: "", plates }],
  };
  const ask = (who: string, method: string, path: string, body?: object) =>
    asked(system.web, method, path, body, callers[who]);
  expect((await ask("owner", "POST", "/api/sheets", { id: "for-quill", note: "n", sheet })).status).toBe(201);
  const made = (await ask("owner", "POST", "/api/sheets/for-quill/links", { days: 1 })).body as { link: string };
  const link = new URL(made.link).searchParams.get("link")!;
  const rename = { what: "metric", from: "loan.kept", to: "loan.held" };
  for (const [who, sees] of [
    ["editor", true],
    ["owner", true],
    ["manage", true],
    ["viewer", false],
    ["read", false],
  ] as const) {
    const { sheets } = (await ask(who, "GET", "/api/sheets")).body as { sheets: { id: string }[] };
    expect(
      sheets.some(({ id }) => id === "for-quill"),
      who,
    ).toBe(sees);
    for (const path of ["/api/sheets/for-quill", "/api/sheets/for-quill/versions"]) {
      const { status, body } = await ask(who, "GET", path);
      expect([status, JSON.stringify(body).includes("For Quill")], who).toEqual(
        sees ? [200, path.endsWith("quill")] : [404, false],
      );
    }
    const { plates: listed, others } = (await ask(who, "GET", "/api/plates")).body as {
      plates: { sheet: string }[];
      others: number;
    };
    expect([listed.some((one) => one.sheet === "for-quill"), others], who).toEqual([sees, sees ? 0 : 1]);
    const { sheets: changed, others: hidden } = (await ask(who, "POST", "/api/repairs/preview", rename)).body as {
      sheets: { id: string }[];
      others: number;
    };
    expect([changed.some(({ id }) => id === "for-quill"), hidden], who).toEqual([sees, sees ? 0 : 1]);
  }
  // By its link it is seen without an account, whoever its readers are: an owner made it.
  const shared = await ask("nobody", "GET", `/api/shared?link=${encodeURIComponent(link)}`);
  expect(shared.body).toMatchObject({ sheet: { name: "For Quill" } });
  const answers = await ask("nobody", "POST", "/api/shared/readings", { link, readings: [reading], from: to - 1, to });
  expect(answers.status).toBe(200);
});

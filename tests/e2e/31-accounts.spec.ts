import { createHmac } from "node:crypto";
import { type BrowserContext, expect, type Locator, type Page, test } from "@playwright/test";
import { expectAccessible } from "./accessible";
import { type AccessSystem, OTTILIE, startAccessSystem, startsLink, type TestPerson } from "./accessSystem";
import { elsewhere } from "./elsewhere";
import { freePort } from "./helpers";
import { enterOn, typeInto } from "./keyboard";

/** Accounts as people meet them: the first owner, invitations, signing in, codes, new passwords, and an end to all of it. */

let system: AccessSystem;

test.describe.configure({ mode: "serial" });
/** Where a page is that may show shared sheets in a frame. */
let framing = 0;
test.beforeAll(async () => {
  framing = await freePort();
  system = await startAccessSystem("accounts", { TIN_FRAME_ORIGINS: `http://localhost:${framing}` });
});
test.afterAll(() => system?.end());

const QUILL: TestPerson = { name: "Quill Anvil", email: "quill@fern-anvil.example", password: "copper kettle gate 9" };
const NEW_PASSWORD = "a lantern beside the gate";
let ottilies: BrowserContext;
let ottiliesRecovery: string[] = [];

/** A browser in which nobody is signed in. */
async function newBrowser(page: Page): Promise<BrowserContext> {
  return page
    .context()
    .browser()!
    .newContext({ storageState: { cookies: [], origins: [] }, baseURL: system.web });
}

async function signIn(page: Page, { email, password }: TestPerson): Promise<void> {
  await page.goto(`${system.web}/sign-in?to=/settings`);
  await page.getByLabel("address for mail").fill(email);
  await page.getByLabel("password", { exact: true }).fill(password);
  await page.getByRole("button", { name: "Sign in" }).click();
}

/** What a page says went wrong, or was made. */
function said(page: Page): Locator {
  return page.locator("main [role=alert]");
}

/** A one-time code as RFC 6238 has it: SHA-1, six figures, thirty seconds. */
function codeOf(secret: string, now = Date.now()): string {
  const alphabet = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567";
  const bits = [...secret.replace(/=+$/, "")]
    .map((letter) => alphabet.indexOf(letter).toString(2).padStart(5, "0"))
    .join("");
  const key = Buffer.from((bits.match(/.{8}/g) ?? []).map((byte) => Number.parseInt(byte, 2)));
  const counter = Buffer.alloc(8);
  counter.writeBigUInt64BE(BigInt(Math.floor(now / 30_000)));
  const hash = createHmac("sha1", key).update(counter).digest();
  const offset = hash[hash.length - 1] & 15;
  return String((hash.readUInt32BE(offset) & 0x7fffffff) % 1_000_000).padStart(6, "0");
}

/** The link in the newest message to an address. */
async function mailedLink(to: string): Promise<string> {
  await expect.poll(() => system.mails.some((mail) => mail.includes(to))).toBe(true);
  const mail = system.mails.findLast((one) => one.includes(to))!;
  return /http:\/\/\S+/.exec(mail)![0];
}

/** Waits for a message to an address that says something. */
async function expectMailed(to: string, what: string): Promise<void> {
  await expect.poll(() => system.mails.some((mail) => mail.includes(to) && mail.includes(what))).toBe(true);
}

test("the start's address makes the first owner once, and nobody gets in before", async ({ page }) => {
  ottilies = await newBrowser(page);
  const tab = await ottilies.newPage();
  await tab.goto("/releases");
  await expect(tab.getByText("Nobody has an account here yet")).toBeVisible();
  await expectAccessible(tab);
  const before = await startsLink(system, "first-owner");
  const link = await startsLink(system, "first-owner");
  await tab.goto(before);
  await tab.getByLabel("your name").fill(OTTILIE.name);
  await tab.getByLabel("address for mail").fill(OTTILIE.email);
  await tab.getByLabel("new password").fill(OTTILIE.password);
  await tab.getByRole("button", { name: "Make the account" }).click();
  await expect(said(tab)).toContainText("used already, or its time is over");
  await tab.goto(link);
  await expectAccessible(tab);
  await tab.getByLabel("your name").fill(OTTILIE.name);
  await tab.getByLabel("address for mail").fill(OTTILIE.email);
  await tab.getByLabel("new password").fill("password123");
  await tab.getByRole("button", { name: "Make the account" }).click();
  await expect(said(tab)).toContainText("everybody tries first");
  await tab.getByLabel("new password").fill(OTTILIE.password);
  await tab.getByRole("button", { name: "Make the account" }).click();
  await expect(tab.getByRole("link", { name: "Ottilie Marsh" })).toContainText("owner");
  expect(await startsLink(system, "first-owner")).toBe("");
  const second = await (await newBrowser(page)).newPage();
  await second.goto(link);
  await second.getByLabel("your name").fill("Somebody");
  await second.getByLabel("address for mail").fill("somebody@fern-anvil.example");
  await second.getByLabel("new password").fill("a thief in the gatehouse");
  await second.getByRole("button", { name: "Make the account" }).click();
  await expect(said(second)).toContainText("used already");
});

test("an invitation goes out by mail, makes an account with its role, and works once", async ({ page }) => {
  const owner = await ottilies.newPage();
  await owner.goto("/settings/people");
  await expectAccessible(owner);
  await owner.getByLabel("their address for mail").fill(QUILL.email);
  await owner.getByRole("button", { name: "role of the invited" }).click();
  await owner.getByRole("option", { name: /^editor/ }).click();
  await owner.getByRole("button", { name: "Invite", exact: true }).click();
  await expect(said(owner)).toContainText(`It was sent to ${QUILL.email}`);
  const link = await mailedLink(QUILL.email);
  const guest = await (await newBrowser(page)).newPage();
  await guest.goto(link);
  await expect(guest.getByText("Ottilie Marsh invites")).toBeVisible();
  await expectAccessible(guest);
  await guest.getByLabel("your name").fill(QUILL.name);
  await guest.getByLabel("new password").fill(QUILL.password);
  await guest.getByRole("button", { name: "Make the account" }).click();
  await expect(guest.getByRole("link", { name: "Quill Anvil" })).toContainText("editor");
  await guest.goto("/settings/people");
  await expect(guest.getByText("This is for owners, and you are an editor")).toBeVisible();
  await guest.goto("about:blank");
  await guest.context().clearCookies();
  await guest.goto(link);
  await expect(said(guest)).toContainText("has ended");
});

test("a name is changed, a password is, and every other session of it ends", async ({ page }) => {
  const tab = await (await newBrowser(page)).newPage();
  await signIn(tab, QUILL);
  const other = await (await newBrowser(page)).newPage();
  await signIn(other, QUILL);
  await expect(other.getByRole("heading", { name: "Your account" })).toBeVisible();
  await tab.goto("/settings");
  await expectAccessible(tab);
  await expect(tab.getByRole("table", { name: "Where you are signed in" }).getByRole("row")).toHaveCount(4);
  await tab.getByLabel("your name, as others see it").fill("Quill A.");
  await tab.getByRole("button", { name: "Change the name" }).click();
  await expect(tab.getByRole("link", { name: "Quill A." })).toBeVisible();
  await tab.getByLabel("the one that you have now").fill("not this one at all");
  await tab.getByLabel("the new one").fill(NEW_PASSWORD);
  await tab.getByRole("button", { name: "Change the password" }).click();
  await expect(said(tab)).toContainText("the password that you have now is another");
  await tab.getByLabel("the one that you have now").fill(QUILL.password);
  await tab.getByRole("button", { name: "Change the password" }).click();
  await expect(tab.getByText("It is changed. Everywhere else you are signed out.")).toBeVisible();
  // What was open elsewhere is refused at its next question, and led to where one signs in.
  await expect(other.getByRole("heading", { name: "Sign in" })).toBeVisible();
  await expect(other).toHaveURL(/to=%2Fsettings/);
  await tab.reload();
  await expect(tab.getByRole("table", { name: "Where you are signed in" }).getByRole("row")).toHaveCount(2);
  QUILL.password = NEW_PASSWORD;
  await expectMailed(QUILL.email, "The password of your account was changed");
});

test("a new password is set by a link that was mailed, whatever the address is; the link works once", async ({
  page,
}) => {
  const tab = await (await newBrowser(page)).newPage();
  const before = system.mails.length;
  for (const email of ["nobody.of.ours@fern-anvil.example", QUILL.email]) {
    await tab.goto("/sign-in");
    await tab.getByRole("link", { name: "I do not know my password" }).click();
    await expect(tab.getByRole("heading", { name: "A new password" })).toBeVisible();
    await tab.getByLabel("address for mail").fill(email);
    await tab.getByRole("button", { name: "Send me a link" }).click();
    await expect(tab.getByText("If that address has an account, a link is on its way.")).toBeVisible();
  }
  await expect.poll(() => system.mails.length).toBe(before + 1);
  const link = await mailedLink(QUILL.email);
  await tab.goto(link);
  await expectAccessible(tab);
  QUILL.password = "seven herons on a roof";
  await tab.getByLabel("new password").fill(QUILL.password);
  await tab.getByRole("button", { name: "Set it" }).click();
  await tab.getByRole("link", { name: "Sign in with it" }).click();
  await signIn(tab, QUILL);
  await expect(tab.getByRole("heading", { name: "Your account" })).toBeVisible();
  await tab.goto(link);
  await tab.getByLabel("new password").fill("eight herons on a roof");
  await tab.getByRole("button", { name: "Set it" }).click();
  await expect(said(tab)).toContainText("has ended");
});

/** What is done on a page whose code does not arrive before it was done. */
async function beforeItIsAlive(tab: Page, path: string, act: () => Promise<void>): Promise<void> {
  let arrive = () => {};
  const arrived = new Promise<void>((resolve) => {
    arrive = resolve;
  });
  await tab.route("**/*.js", async (route) => {
    await arrived;
    await route.continue();
  });
  await tab.goto(path, { waitUntil: "commit" });
  await act();
  arrive();
  await tab.unrouteAll({ behavior: "wait" });
}

test("what is sent before a page has come alive is sent once it has, and never stands in an address", async ({
  page,
}) => {
  const tab = await (await newBrowser(page)).newPage();
  const addresses: string[] = [];
  tab.on("request", (request) => addresses.push(request.url()));
  const [email, password] = [tab.getByLabel("address for mail"), tab.getByLabel("password", { exact: true })];
  const enter = async (typed: string) => {
    await email.fill(QUILL.email);
    await password.fill(typed);
    await tab.getByRole("button", { name: "Sign in" }).click({ noWaitAfter: true });
  };
  await beforeItIsAlive(tab, "/sign-in?to=/settings", () => enter("not the one that Quill has"));
  await expect(said(tab)).toContainText("the address or the password is wrong");
  await expect(email).toHaveValue(QUILL.email);
  await expect(password).toHaveValue("not the one that Quill has");
  await beforeItIsAlive(tab, "/sign-in?to=/settings", () => enter(QUILL.password));
  await expect(tab.getByRole("heading", { name: "Your account" })).toBeVisible();
  expect(addresses.filter((address) => /[?&](email|password)=/.test(address))).toEqual([]);
});

test("what is typed or clicked before a page has come alive is there once it has", async () => {
  const tab = await ottilies.newPage();
  const field = tab.getByLabel("Find in the record");
  const found = tab.waitForRequest((request) => /\/api\/record\?.*find=invit/.test(request.url()));
  await beforeItIsAlive(tab, "/settings/record", () => field.fill("invit"));
  await found;
  await expect(field).toHaveValue("invit");
  await beforeItIsAlive(tab, "/settings/people", async () => {
    await tab.getByRole("button", { name: "Keys: ?" }).click();
  });
  await expect(tab.getByRole("dialog").getByRole("heading", { name: "Keys" })).toBeVisible();
});

test("with one-time codes a password alone signs nobody in; a recovery code does, once", async ({ page }) => {
  const tab = await (await newBrowser(page)).newPage();
  await signIn(tab, QUILL);
  await tab.getByLabel("your password").fill(QUILL.password);
  await tab.getByRole("button", { name: "Set up one-time codes" }).click();
  const secret = (await tab.locator("p.num.select-all").first().textContent())!;
  const recovery = (await said(tab).locator("p.select-all").textContent())!.split("\n");
  expect(recovery).toHaveLength(10);
  await expectAccessible(tab);
  await tab.getByLabel("the code that it shows").fill("000000");
  await tab.getByRole("button", { name: /They work/ }).click();
  await expect(tab.getByText("the code is another")).toBeVisible();
  const used = codeOf(secret);
  await tab.getByLabel("the code that it shows").fill(used);
  await tab.getByRole("button", { name: /They work/ }).click();
  await expect(tab.getByText("A code is asked for at each sign-in.")).toBeVisible();
  await tab.getByRole("button", { name: "Sign out" }).click();
  await expect(tab.getByRole("heading", { name: "Sign in" })).toBeVisible();

  await signIn(tab, QUILL);
  await expect(tab.getByRole("heading", { name: "Your one-time code" })).toBeVisible();
  await expectAccessible(tab);
  // What was seen is not: half a sign-in is none.
  expect((await tab.request.get("/api/store")).status()).toBe(401);
  await tab.getByLabel(/six figures/).fill(codeOf(secret, Date.now() - 600_000));
  await tab.getByRole("button", { name: "Sign in" }).click();
  await expect(said(tab)).toContainText("the code is wrong");
  // The one that set them up was used by that; so is each by signing in.
  const next = codeOf(secret, Date.now() + 30_000);
  await tab.getByLabel(/six figures/).fill(used);
  await tab.getByRole("button", { name: "Sign in" }).click();
  await expect(said(tab)).toContainText("was used already");
  expect((await tab.request.get("/api/store")).status()).toBe(401);
  await tab.getByLabel(/six figures/).fill(next);
  await tab.getByRole("button", { name: "Sign in" }).click();
  await expect(tab.getByRole("heading", { name: "Your account" })).toBeVisible();
  await expect(tab.getByRole("table", { name: "Where you are signed in" })).toBeVisible();
  await expectMailed(QUILL.email, "One-time codes were set up for your account");

  for (const [code, works] of [
    [recovery[0], true],
    [recovery[0], false],
    [recovery[1], true],
  ] as const) {
    await tab.goto("about:blank");
    await tab.context().clearCookies();
    await signIn(tab, QUILL);
    await tab.getByRole("button", { name: "I do not have my device" }).click();
    await tab.getByLabel(/one of those that you kept/).fill(code);
    await tab.getByRole("button", { name: "Sign in" }).click();
    if (works) await expect(tab.getByRole("heading", { name: "Your account" })).toBeVisible();
    else await expect(said(tab)).toContainText("was used already");
  }
});

test("an owner who has codes can ask them of everybody: who has none sets them up and can do nothing else", async ({
  page,
}) => {
  const owner = await ottilies.newPage();
  const ask = async (option: RegExp) => {
    await owner.goto("/settings/people");
    await owner.getByRole("button", { name: "who needs one-time codes" }).click();
    await owner.getByRole("option", { name: option }).click();
  };
  await ask(/asked of everybody/);
  await expect(said(owner)).toContainText("set up one-time codes for yourself");
  await owner.goto("/settings");
  await owner.getByLabel("your password").fill(OTTILIE.password);
  await owner.getByRole("button", { name: "Set up one-time codes" }).click();
  const secret = (await owner.locator("p.num.select-all").first().textContent())!;
  ottiliesRecovery = (await said(owner).locator("p.select-all").textContent())!.split("\n");
  await owner.getByLabel("the code that it shows").fill(codeOf(secret));
  await owner.getByRole("button", { name: /They work/ }).click();
  await expect(owner.getByText("A code is asked for at each sign-in.")).toBeVisible();
  await ask(/asked of everybody/);
  await expect(owner.getByText("One-time codes are asked of everybody")).toBeVisible();

  await owner.getByLabel("their address for mail").fill("tansy@fern-anvil.example");
  await owner.getByRole("button", { name: "Invite", exact: true }).click();
  const tab = await (await newBrowser(page)).newPage();
  await tab.goto(await mailedLink("tansy@fern-anvil.example"));
  await tab.getByLabel("your name").fill("Tansy Brook");
  await tab.getByLabel("new password").fill("raspberries and rust");
  await tab.getByRole("button", { name: "Make the account" }).click();
  await expect(tab.getByText("An owner asks for them of everybody here")).toBeVisible();
  await tab.goto("/store");
  await expect(tab).toHaveURL(/\/settings$/);
  const refused = await tab.request.get("/api/store");
  expect(refused.status()).toBe(403);
  expect(await refused.json()).toMatchObject({ detail: expect.stringContaining("set yours up under Settings") });
  await tab.getByLabel("your password", { exact: true }).fill("raspberries and rust");
  await tab.getByRole("button", { name: "Set up one-time codes" }).click();
  const hers = (await tab.locator("p.num.select-all").first().textContent())!;
  await tab.getByLabel("the code that it shows").fill(codeOf(hers));
  await tab.getByRole("button", { name: /They work/ }).click();
  await expect(tab.getByText("A code is asked for at each sign-in.")).toBeVisible();
  await tab.goto("/store");
  await expect(tab).toHaveURL(/\/store$/);
  expect((await tab.request.get("/api/store")).status()).toBe(200);
  await ask(/a choice of each/);
  await expect(owner.getByText("One-time codes are a choice of each")).toBeVisible();
});

test("an account that is switched off is refused at its next request; the last owner stays", async ({ page }) => {
  const quill = await (await newBrowser(page)).newPage();
  const owner = await ottilies.newPage();
  await owner.goto("/settings/people");
  await owner.getByRole("button", { name: "role of Ottilie Marsh" }).click();
  await owner.getByRole("option", { name: /^viewer/ }).click();
  await expect(said(owner)).toContainText("the last owner stays one");
  await owner.getByRole("button", { name: "switch off the account of Quill A." }).focus();
  await quill.goto("/sign-in?to=/instruments");
  await quill.getByLabel("address for mail").fill(QUILL.email);
  await quill.getByLabel("password", { exact: true }).fill(QUILL.password);
  await quill.getByRole("button", { name: "Sign in" }).click();
  await expect(quill.getByRole("heading", { name: "Your one-time code" })).toBeVisible();
  await owner.keyboard.press("Enter");
  await owner.getByRole("button", { name: "Switch it off" }).click();
  await expect(owner.getByRole("button", { name: "switch on the account of Quill A." })).toBeVisible();
  await quill.goto("/sign-in");
  await quill.getByLabel("address for mail").fill(QUILL.email);
  await quill.getByLabel("password", { exact: true }).fill(QUILL.password);
  await quill.getByRole("button", { name: "Sign in" }).click();
  await expect(said(quill)).toContainText("switched off");
});

test("a page that is open when its account is switched off leads to the sign-in at its next question", async ({
  page,
}) => {
  const owner = await ottilies.newPage();
  await owner.goto("/settings/people");
  await owner.getByLabel("their address for mail").fill("marrow@fern-anvil.example");
  await owner.getByRole("button", { name: "Invite", exact: true }).click();
  const link = await mailedLink("marrow@fern-anvil.example");
  const tab = await (await newBrowser(page)).newPage();
  await tab.goto(link);
  await tab.getByLabel("your name").fill("Marrow Slate");
  await tab.getByLabel("new password").fill("plum stones in a jar");
  await tab.getByRole("button", { name: "Make the account" }).click();
  await expect(tab.getByRole("link", { name: "Marrow Slate" })).toContainText("viewer");
  await tab.goto("/services/senders");
  await expect(tab.getByRole("heading", { name: "Senders" })).toBeVisible();
  await expect(tab.getByRole("button", { name: "who may send" })).toHaveCount(0);
  // One answer that does not know the asker is not believed: the session may have been another one a moment ago.
  const asked = tab.waitForResponse((response) => response.status() === 401);
  await tab.route("**/api/**", (route) => route.fulfill({ status: 401, json: { title: "no", detail: "no" } }), {
    times: 1,
  });
  await asked;
  await tab.waitForResponse((response) => response.url().includes("/api/") && response.ok());
  await tab.waitForTimeout(1500);
  await expect(tab).toHaveURL(/\/services\/senders/);
  await owner.reload();
  await owner.getByRole("button", { name: "switch off the account of Marrow Slate" }).click();
  await owner.getByRole("button", { name: "Switch it off" }).click();
  await expect(tab.getByRole("heading", { name: "Sign in" })).toBeVisible();
  await expect(tab).toHaveURL(/to=%2Fservices%2Fsenders/);
  // Here an answer that does not know the asker is believed at once: asked again, a wrong password would be two attempts.
  let attempts = 0;
  tab.on("request", (request) => {
    if (request.method() === "POST" && request.url().endsWith("/api/sign-in")) attempts++;
  });
  await tab.getByLabel("address for mail").fill("nobody@fern-anvil.example");
  await tab.getByLabel("password", { exact: true }).fill("no such thing");
  await tab.getByRole("button", { name: "Sign in" }).click();
  await expect(said(tab)).toContainText("the address or the password is wrong");
  await tab.waitForTimeout(1000);
  expect(attempts).toBe(1);
});

test("signing in, inviting, making and revoking a key need no pointer", async ({ page }) => {
  const tab = await (await newBrowser(page)).newPage();
  await tab.goto(`${system.web}/sign-in?to=/settings`);
  await typeInto(tab, tab.getByLabel("address for mail"), OTTILIE.email);
  await typeInto(tab, tab.getByLabel("password", { exact: true }), OTTILIE.password);
  await tab.keyboard.press("Enter");
  // She set up codes; the one that she keeps on paper serves as well.
  await enterOn(tab, tab.getByRole("button", { name: "I do not have my device" }));
  await typeInto(tab, tab.getByLabel(/one of those that you kept/), ottiliesRecovery[0]);
  await tab.keyboard.press("Enter");
  await expect(tab.getByRole("heading", { name: "Your account" })).toBeVisible();
  const parts = tab.getByRole("navigation", { name: "Settings" });
  await enterOn(tab, parts.getByRole("link", { name: "People" }));
  await typeInto(tab, tab.getByLabel("their address for mail"), "sorrel@fern-anvil.example");
  await enterOn(tab, tab.getByRole("button", { name: "role of the invited" }));
  await tab.keyboard.press("ArrowDown");
  await tab.keyboard.press("Enter");
  await enterOn(tab, tab.getByRole("button", { name: "Invite", exact: true }));
  await expect(said(tab)).toContainText("It was sent to sorrel@fern-anvil.example");
  const open = tab.getByRole("table", { name: "Open invitations" }).getByRole("row", { name: /sorrel/ });
  await enterOn(tab, open.getByRole("button", { name: "take it back" }));
  await expect(open).toHaveCount(0);

  await enterOn(tab, parts.getByRole("link", { name: "Keys" }));
  await typeInto(tab, tab.getByLabel("who will use it"), "gatehouse");
  await enterOn(tab, tab.getByRole("button", { name: "what the key is for" }));
  await tab.keyboard.press("ArrowDown");
  await tab.keyboard.press("Enter");
  await enterOn(tab, tab.getByRole("button", { name: "Make a key" }));
  await expect(said(tab)).toContainText("shown only now");
  await enterOn(tab, tab.getByRole("button", { name: "I have it" }));
  await enterOn(tab, tab.getByRole("button", { name: "revoke gatehouse" }));
  await enterOn(tab, tab.getByRole("button", { name: "Revoke it" }));
  await expect(tab.getByRole("row", { name: /gatehouse/ })).toContainText("revoked");
});

test("the record tells all of it, is found by a text, comes as a table, and nobody can change it", async () => {
  const owner = await ottilies.newPage();
  await owner.goto("/settings/record");
  await expectAccessible(owner);
  const table = owner.getByRole("table", { name: "The record" });
  for (const did of [
    "became the first owner",
    "switched an account off",
    "set up one-time codes",
    "changed their password",
  ])
    await expect(table.getByRole("cell", { name: did }).first()).toBeVisible();
  await owner.getByLabel("Find in the record").fill("recovery");
  // Quill came in with two of his, Ottilie with one.
  await expect(table.getByRole("row")).toHaveCount(4);
  const csv = await (await owner.request.get("/api/record/csv?find=")).text();
  const lines = csv.trim().split("\n");
  expect(lines[0]).toBe("when,who,did,about,address");
  expect(csv).toContain("could not sign in");
  for (const secret of [OTTILIE.password, QUILL.password, NEW_PASSWORD]) expect(csv).not.toContain(secret);
  const { Client } = (await import("pg")).default;
  const client = new Client({ connectionString: system.cluster.url });
  await client.connect();
  await expect(client.query("UPDATE record_line SET who = 'nobody'")).rejects.toThrow("added to only");
  await expect(client.query("DELETE FROM record_line")).rejects.toThrow("added to only");
  await client.end();
});

test("a shared sheet is shown in a frame of who is named, and of nobody else", async ({ page }) => {
  const make = (path: string, data: object) =>
    ottilies.request.post(`${system.web}/api/${path}`, { data, headers: { Origin: system.web } });
  const sheet = { name: "On the wall", bands: [] };
  expect((await make("sheets", { id: "on-the-wall", note: "n", sheet })).status()).toBe(201);
  const { link } = (await (await make("sheets/on-the-wall/links", { days: 1 })).json()) as { link: string };
  const showing = `<!doctype html><iframe src="${link}"></iframe>`;
  const heading = page.frameLocator("iframe").getByRole("heading", { name: "On the wall" });
  let named = await elsewhere(showing, framing);
  const other = await elsewhere(showing);
  const refused = () =>
    page.waitForEvent("console", (message) => /frame-ancestors|X-Frame-Options/i.test(message.text()));
  try {
    await page.goto(named.address);
    await expect(heading).toBeVisible();
    let told = refused();
    await page.goto(other.address);
    await told;
    await expect(heading).toHaveCount(0);
    // No other page of ours is shown by who is named.
    named.close();
    named = await elsewhere(`<!doctype html><iframe src="${system.web}/sheets"></iframe>`, framing);
    told = refused();
    await page.goto(named.address);
    await told;
  } finally {
    named.close();
    other.close();
  }
});

test("without a postbox, an owner hands links over", async ({ page }) => {
  await system.closeMail();
  const owner = await ottilies.newPage();
  await owner.goto("/settings/mail");
  await expectAccessible(owner);
  await owner.getByRole("button", { name: /^Send one to/ }).click();
  await expect(owner.getByText("It was not taken")).toBeVisible();
  await owner.goto("/settings/people");
  await owner.getByRole("button", { name: "switch on the account of Marrow Slate" }).click();
  await owner
    .getByRole("row", { name: /Marrow/ })
    .getByRole("button", { name: "link for a new password" })
    .click();
  await expect(said(owner)).toContainText("No mail was sent. Hand this link to marrow@fern-anvil.example");
  const link = (await said(owner).locator("p.select-all").textContent())!;
  const tab = await (await newBrowser(page)).newPage();
  await tab.goto(link);
  await tab.getByLabel("new password").fill("cherry stones in a jar");
  await tab.keyboard.press("Enter");
  await expect(tab.getByText("It holds from now on")).toBeVisible();
});

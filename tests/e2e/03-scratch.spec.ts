import { expect, test } from "@playwright/test";

const WIDE = `from=${Date.now() - 600_000}&to=${Date.now() + 120_000}`;

test("names are completed while typing", async ({ page }) => {
  await page.goto(`/scratch?${WIDE}`);
  await page.getByRole("textbox", { name: "Reading" }).click();
  await page.keyboard.type("p95 of http.ser", { delay: 20 });
  await expect(page.getByRole("option", { name: /http\.server\.request\.duration/ })).toBeVisible();
  await page.keyboard.press("Enter");
  await page.keyboard.type("where http.ro", { delay: 20 });
  await expect(page.getByRole("option", { name: /http\.route/ })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "Reading" })).toContainText(
    "p95 of http.server.request.duration where http.route",
  );
});

test("the slots of the sentence change the reading in place", async ({ page }) => {
  await page.goto(`/scratch?${WIDE}&reading=${encodeURIComponent("rate of pot.fired")}`);
  await page.getByRole("button", { name: "measure: rate" }).click();
  await page.getByRole("option", { name: /count/ }).click();
  await page.getByRole("button", { name: /another grouping/ }).click();
  const grouping = page.getByPlaceholder("Find another grouping");
  await grouping.fill("depot");
  await page.keyboard.press("Enter");
  await expect(grouping).toHaveCount(0);
  await page.getByRole("button", { name: /another test/ }).click();
  await page.getByPlaceholder("attribute is value").fill("release is 1.1.0");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/reading=/);
  await expect(page.getByRole("textbox", { name: "Reading" })).toHaveText(
    'count of pot.fired where release is "1.1.0" by depot',
  );
  const table = page.getByRole("table", { name: "Numbers of the reading by series" });
  await expect(table.getByRole("row").filter({ hasText: "Brindle" })).toContainText("7 pot");
  await page.goBack();
  await expect(page.getByRole("textbox", { name: "Reading" })).toHaveText("count of pot.fired by depot");
});

test("a slot takes what is typed before the code of its list is there, and where that never comes", async ({
  page,
}) => {
  let mayCome: () => void = () => {};
  const held = new Promise<void>((resolve) => {
    mayCome = resolve;
  });
  let lists: "held" | "lost" = "held";
  let asked = 0;
  await page.route("**/*.js", async (route) => {
    const response = await route.fetch();
    if (!(await response.text()).includes("cmdk-input")) return route.fulfill({ response });
    asked++;
    if (lists === "lost") return route.abort();
    await held;
    await route.fulfill({ response });
  });
  const address = `/scratch?${WIDE}&reading=${encodeURIComponent("rate of pot.fired")}`;
  await page.goto(address);
  await page.getByRole("button", { name: /another grouping/ }).click();
  const grouping = page.getByPlaceholder("Find another grouping");
  await expect(grouping).toBeFocused();
  await page.keyboard.type("dep");
  await expect(page.getByText("The list is coming.")).toBeVisible();
  await expect.poll(() => asked).toBeGreaterThan(0);
  mayCome();
  await expect(page.getByRole("option", { name: "depot" })).toBeVisible();
  await page.keyboard.type("ot");
  await expect(grouping).toHaveValue("depot");
  await page.keyboard.press("Enter");
  const reading = page.getByRole("textbox", { name: "Reading" });
  await expect(reading).toHaveText("rate of pot.fired by depot");

  lists = "lost";
  // At the foot of the page, and at its right: neither is scrolled to.
  for (const [path, slot] of [
    [
      "/services",
      page
        .locator("section")
        .last()
        .getByRole("button", { name: /^service:/ }),
    ],
    ["/releases", page.getByRole("button", { name: /^what each is held against:/ })],
  ] as const) {
    await page.goto(path);
    await slot.click();
    await expect(page.getByText("The list could not be loaded")).toBeInViewport({ ratio: 1 });
    expect(await page.evaluate(() => [scrollY, document.querySelector("main")!.scrollLeft])).toEqual([0, 0]);
  }
  await page.goto(address);
  await page.getByRole("button", { name: "measure: rate" }).click();
  await expect(page.getByText("The list could not be loaded")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByText("The list could not be loaded")).toHaveCount(0);
  await page.keyboard.press("Enter");
  await page.keyboard.type("count");
  await page.keyboard.press("Enter");
  await expect(reading).toHaveText("count of pot.fired");
  // Code for other pages may still be on its way.
  await page.unrouteAll({ behavior: "ignoreErrors" });
});

test("errors stand in words at their place, with a way out", async ({ page }) => {
  await page.goto(`/scratch?${WIDE}&reading=${encodeURIComponent("rate of pot.fried")}`);
  await expect(page.getByRole("alert").filter({ hasText: "no metric named pot.fried" })).toContainText(
    "did you mean pot.fired?",
  );
  await expect(page.locator("mark")).toHaveText("pot.fried");
  await page.getByRole("button", { name: "Read pot.fired instead" }).click();
  await expect(page.getByRole("textbox", { name: "Reading" })).toHaveText("rate of pot.fired");
  await page.goto(`/scratch?${WIDE}&reading=${encodeURIComponent("rate of pot.fired were depot is 1")}`);
  await expect(page.getByRole("alert").filter({ hasText: "not expected here" })).toContainText("did you mean where?");
});

test("an empty answer says why it is empty", async ({ page }) => {
  await page.goto(`/scratch?from=1700000000000&to=1700003600000&reading=${encodeURIComponent("rate of pot.fired")}`);
  await expect(
    page.getByText(/nothing of pot\.fired is stored of the window; its first point is from 20/),
  ).toBeVisible();
  await page.goto(`/scratch?${WIDE}&reading=${encodeURIComponent('rate of pot.fired where depot is "Atlantis"')}`);
  await expect(page.getByText(/passes the where tests/)).toBeVisible();
});

test("what somebody looked at is there for others to begin with; what was passed by is not", async ({
  page,
  browser,
}) => {
  const looked = "count of pot.fired by depot every 10m";
  await page.goto(`/scratch?${WIDE}&reading=${encodeURIComponent("count of pot.fired every 30m")}`);
  await page.goto(`/scratch?${WIDE}&reading=${encodeURIComponent(looked)}`);
  const noted = () =>
    page.request
      .get("/api/readings/lately")
      .then(async (answer) => (await answer.json()).readings as { reading: string }[]);
  await expect.poll(noted, { timeout: 60_000 }).toContainEqual(expect.objectContaining({ reading: looked }));
  expect(await noted()).not.toContainEqual(expect.objectContaining({ reading: "count of pot.fired every 30m" }));
  const refused = await page.request.post("/api/readings/lately", { data: { reading: "count off pots" } });
  expect(refused.status()).toBe(400);
  const another = await browser.newPage();
  await another.goto(`/scratch?${WIDE}`);
  await another.getByRole("region", { name: "Read lately" }).getByRole("button", { name: looked }).click();
  await expect(another).toHaveURL(/reading=count/);
  await another.close();
});

import { expect, test } from "@playwright/test";
import { countOf, post } from "./helpers";

test("an empty store shows how to send, and turns live when the first point arrives", async ({ page }) => {
  await page.goto("/");
  await expect(page.getByRole("heading", { name: "Nothing has arrived yet" })).toBeVisible();
  const endpoint = `OTEL_EXPORTER_OTLP_ENDPOINT=http://localhost:${process.env.TIN_INTAKE_PORT}`;
  await expect(page.getByText(endpoint)).toBeVisible();
  await page.getByRole("radio", { name: /One point, by hand/ }).click();
  await expect(page.getByText("curl -s")).toBeVisible();
  expect(await post(countOf("doorbell", "bell.rung", 3, Date.now()))).toBe(200);
  await expect(page.getByRole("heading", { name: "Nothing has arrived yet" })).toBeHidden();
  // Home has it, and what can be said of it as soon as the watch has looked.
  const row = page.getByRole("listitem").filter({ has: page.getByRole("link", { name: "doorbell", exact: true }) });
  await expect(row).toContainText("reports no histogram of its calls", { timeout: 60_000 });
  await row.getByRole("link", { name: "doorbell", exact: true }).click();
  await expect(page.getByText("doorbell reports no histogram of its calls")).toBeVisible();
});

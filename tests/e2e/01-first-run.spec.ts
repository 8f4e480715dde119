import { expect, test } from "@playwright/test";
import { countOf, post } from "./helpers";

test("an empty store shows how to send, and turns live when the first point arrives", async ({ page }) => {
  await page.goto("/");
  await expect(page.getByRole("heading", { name: "Nothing has arrived yet" })).toBeVisible();
  await expect(page.getByText(`http://localhost:${process.env.TIN_INTAKE_PORT}/v1/metrics`).first()).toBeVisible();
  await page.getByRole("tab", { name: "A point by hand" }).click();
  await expect(page.getByText("curl -s")).toBeVisible();
  expect(await post(countOf("doorbell", "bell.rung", 3, Date.now()))).toBe(200);
  await expect(page.getByRole("heading", { name: "Nothing has arrived yet" })).toBeHidden();
  await expect(page.getByText("doorbell reports no histogram of its calls")).toBeVisible();
});

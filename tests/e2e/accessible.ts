import AxeBuilder from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";

/** Holds a page as it stands against WCAG 2, levels A and AA. */
export async function expectAccessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa"]).analyze();
  expect(
    violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(" | ")}`),
  ).toEqual([]);
}

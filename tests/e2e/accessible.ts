import AxeBuilder from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";

/** What another theme can break: the rest of WCAG 2, levels A and AA, does not depend on colours. */
const OF_COLOUR = ["color-contrast", "link-in-text-block"];

/** Holds a page as it stands against WCAG 2, levels A and AA, or against what of it depends on colours. */
export async function expectAccessible(page: Page, only?: "colours"): Promise<void> {
  const axe = new AxeBuilder({ page }).setLegacyMode();
  if (only) axe.withRules(OF_COLOUR);
  else axe.withTags(["wcag2a", "wcag2aa"]);
  const { violations } = await axe.analyze();
  expect(
    violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(" | ")}`),
  ).toEqual([]);
}

// What axe finds of serious or critical kind in a part of a page, once that part has come to rest.
import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

/** Findings as lines of text, empty where all is well; of the rules named, or of all. A dialog still fading in has colours that are not its own: it waits for that. */
export async function grave(page: Page, part: string, rules?: string[]): Promise<string[]> {
  await expect(page.locator(part).first()).toBeVisible();
  await page.waitForFunction(() => document.getAnimations().every(({ playState }) => playState !== 'running'));
  // Rows are alike: the first dozen stand for all.
  const axe = new AxeBuilder({ page }).include(part).exclude('.rows > :nth-child(n + 13)');
  const { violations } = await (rules ? axe.withRules(rules) : axe).analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes[0].html.slice(0, 160)} (${nodes.length})`);
}

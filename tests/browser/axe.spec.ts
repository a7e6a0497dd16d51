// Everyone’s eyes and ears: axe finds nothing serious or critical in any view or dialog, by day and by night.
import { expect, test, type Page } from '@playwright/test';
import { grave } from './axe';
import { startServer, type TestServer } from './server';

let server: TestServer;
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(() => server.remove());

const button = (name: string) => (page: Page) => page.getByRole('button', { name, exact: true }).click();
/** An entry of the menu at the head of a column or at the foot of the roots. */
const entry = (open: (page: Page) => Promise<void>, name: string) => async (page: Page) => {
  await open(page);
  await page.getByRole('menuitem', { name, exact: true }).click();
};
const room = (page: Page) =>
  page
    .getByRole('columnheader', { name: /Shed room/ })
    .getByRole('button')
    .click();

/** View by view: what shows that it is there, and what opens over it, each in the part it opens. */
const views: [view: string, shown: string, opened: [part: string, open: (page: Page) => Promise<void>][]][] = [
  [
    'ledger',
    '[data-row]',
    [
      ['.picker', (page) => page.keyboard.press('Control+k')],
      ['dialog', (page) => page.keyboard.press('?')],
      ['dialog', entry(room, 'Twin into buses…')],
      ['dialog', entry(room, 'Drive by…')],
      ['dialog', entry(button('New…'), 'Cue…')]
    ]
  ],
  ['map', '[data-node]', []],
  [
    'roster',
    '[data-row]',
    [
      ['dialog', button('Sort by rule…')],
      ['dialog', button('Buses…')],
      ['dialog', button('Templates…')]
    ]
  ],
  ['prints', 'h1, h2', []]
];

for (const theme of ['light', 'dark'])
  test(`axe has nothing serious to say of any view or dialog, ${theme === 'light' ? 'by day' : 'by night'}`, async ({ page }) => {
    // A theme is colours only: what else axe looks at is looked at by day.
    const rules = theme === 'dark' ? ['color-contrast'] : undefined;
    await page.addInitScript((name) => localStorage.setItem('theme', name), theme);
    for (const [view, shown, opened] of views) {
      await page.goto(`${server.url}/s/${view === 'map' ? 'ferry-shed-finished' : 'ferry-shed-halfway'}/${view}`);
      await page.locator(shown).first().waitFor();
      // With a row chosen the side sheet is there too.
      if (await page.locator('[data-focus]').count()) await page.locator('[data-focus]').nth(3).click();
      expect(await grave(page, '.shell', rules), view).toEqual([]);
      for (const [i, [part, open]] of opened.entries()) {
        await open(page);
        expect(await grave(page, part, rules), `${view}, ${i}`).toEqual([]);
        await page.keyboard.press('Escape');
        await expect(page.locator(part)).toBeHidden();
      }
    }
  });

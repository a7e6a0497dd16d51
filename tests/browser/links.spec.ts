// VCAs and link groups as a person has them in hand: made from a selection, ticked, dragged, seen before they move, paused, moved alone.
import { expect, test, type Page } from '@playwright/test';
import type { Desk } from '../../src/lib/state/desk';
import { grave } from './axe';
import { startServer, type TestServer } from './server';

declare global {
  interface Window {
    isotaxis: Desk;
  }
}

let server: TestServer;
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(() => server.remove());

const open = async (page: Page, view: string, session = 'ferry-shed-finished') => {
  await page.goto(`${server.url}/s/${session}/${view}`);
  await page.locator('[data-row]').first().waitFor();
};
const saved = (page: Page) => expect(page.locator('.saving')).toHaveText('Saved');
const row = (page: Page, name: string) => page.locator('[data-row]', { has: page.getByRole('button', { name, exact: true }) });
const faders = (page: Page, names: readonly string[]) =>
  page.evaluate(
    (wanted) => wanted.map((name) => [...window.isotaxis.store.session.channel.values()].find((channel) => channel.name === name)!.faderDb),
    names
  );
/** Drags a pin along its rail, a pixel at a time, and lets go. */
async function drag(page: Page, name: string, ...by: number[]): Promise<void> {
  const box = (await page.getByRole('button', { name: `Fader of ${name}`, exact: true }).boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (const to of by) await page.mouse.move(x + to, y, { steps: 8 });
  await page.mouse.up();
}
const DRUMS = ['Surdo low', 'Surdo high', 'Caixa', 'Repique'];

test('a linked drag moves the others as one sees it and comes back whole; alone, paused and by its own keys it does not', async ({
  page
}) => {
  await open(page, 'ledger');
  const before = await faders(page, DRUMS);
  // What would move is shown before it does.
  await page.getByRole('button', { name: 'Fader of Surdo low', exact: true }).hover();
  await expect(page.locator('.ledger .row.reached')).toHaveCount(3);
  await expect(row(page, 'Caixa')).toHaveClass(/reached/);
  await page.mouse.move(5, 60);
  await expect(page.locator('.ledger .row.reached')).toHaveCount(0);

  await drag(page, 'Surdo low', -20);
  const down = await faders(page, DRUMS);
  expect(down[0]).toBeLessThan(-4);
  down.forEach((level, i) => expect(level - down[0]).toBeCloseTo(before[i] - before[0], 6));
  await expect(page.locator('.undo')).toHaveText(/^Undo: Fader of Surdo low by −\d+\.\d dB, and 3 linked *$/);
  await page.keyboard.press('Control+z');
  await expect.poll(() => faders(page, DRUMS)).toEqual(before);
  // To the very end and back in one gesture: each has its old distance.
  await drag(page, 'Surdo low', -400, -20);
  const back = await faders(page, DRUMS);
  back.forEach((level, i) => expect(level - back[0]).toBeCloseTo(before[i] - before[0], 6));
  await page.keyboard.press('Control+z');
  await expect.poll(() => faders(page, DRUMS)).toEqual(before);

  await page.keyboard.down('n');
  await expect(page.getByText('moving alone')).toBeVisible();
  await drag(page, 'Surdo low', -20);
  await page.keyboard.up('n');
  await expect(page.getByText('moving alone')).toBeHidden();
  const alone = await faders(page, DRUMS);
  expect(alone[0]).toBeLessThan(-4);
  expect(alone.slice(1)).toEqual(before.slice(1));

  await page.keyboard.press('Alt+1');
  await expect(page.locator('.undo')).toHaveText('Undo: Pause Hand drums');
  await drag(page, 'Caixa', -20);
  expect((await faders(page, DRUMS)).slice(0, 2)).toEqual(alone.slice(0, 2));
  await page.keyboard.press('Alt+1');
  await page.keyboard.press('l');
  await expect(page.getByRole('button', { name: 'links paused' })).toBeVisible();
  await drag(page, 'Repique', -10);
  expect((await faders(page, DRUMS))[0]).toBe(alone[0]);
  await page.keyboard.press('l');
  await saved(page);
  // What another page, or the next visit, sees.
  const kept = await faders(page, DRUMS);
  await page.reload();
  await page.locator('[data-row]').first().waitFor();
  expect(await faders(page, DRUMS)).toEqual(kept);
});

test('a VCA over a selection is dragged, seen on its members, removed so that nothing is heard to change', async ({ page }) => {
  await open(page, 'ledger', 'ferry-shed');
  await page.getByRole('button', { name: 'AUD_0003_surdo', exact: true }).click();
  await page.getByRole('button', { name: 'shk2_OK', exact: true }).click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: 'New…' }).click();
  await page.getByRole('menuitem', { name: 'VCA over selection…' }).click();
  await page.keyboard.type('Rhythm');
  await page.keyboard.press('Enter');
  await expect(page.locator('.pins [data-row]')).toHaveCount(1);
  await drag(page, 'Rhythm', -30);
  const [level, own] = await page.evaluate(() => {
    const { store } = window.isotaxis;
    const member = [...store.session.channel.values()].find(({ name }) => name === 'AUD_0003_surdo')!;
    return [store.level(member.id), member.faderDb];
  });
  expect(own).toBe(0);
  expect(level).toBeLessThan(-1);
  await expect(row(page, 'AUD_0003_surdo').locator('.whole')).toBeVisible();
  await expect(row(page, 'shk2_OK').locator('.whole')).toBeVisible();
  await page.getByRole('button', { name: 'Rhythm', exact: true }).click();
  await page.keyboard.press('Delete');
  await page.getByRole('button', { name: 'Fold it in' }).click();
  await expect(page.locator('.pins [data-row]')).toHaveCount(0);
  const folded = await faders(page, ['AUD_0003_surdo', 'shk2_OK']);
  expect(folded).toEqual([level, level]);
  await page.keyboard.press('Control+z');
  await expect(page.locator('.pins [data-row]')).toHaveCount(1);
});

test('Links: ticks by click, over many and by keys; a group says what it links and what it means beside a VCA', async ({ page }) => {
  await open(page, 'links');
  const cell = (name: string, group: string) => page.getByRole('gridcell', { name: new RegExp(`^${name} in ${group}: `) });
  await cell('Shaker L', 'Hand drums').click();
  await expect(cell('Shaker L', 'Hand drums')).toHaveAccessibleName('Shaker L in Hand drums: yes');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  await expect(cell('Shaker R', 'Hand drums')).toHaveAccessibleName('Shaker R in Hand drums: yes');
  await page.keyboard.press('Space');
  // Over many, as one step.
  const from = (await cell('Surdo low', 'Tenor pans').boundingBox())!;
  const to = (await cell('Shaker R', 'Tenor pans').boundingBox())!;
  await page.mouse.move(from.x + 20, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(to.x + 20, to.y + 10, { steps: 12 });
  await page.mouse.up();
  for (const name of ['Surdo low', 'Caixa', 'Shaker R'])
    await expect(cell(name, 'Tenor pans')).toHaveAccessibleName(`${name} in Tenor pans: yes`);
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect(cell('Surdo low', 'Tenor pans')).toHaveAccessibleName('Surdo low in Tenor pans: no');
  await expect(cell('Shaker R', 'Tenor pans')).toHaveAccessibleName('Shaker R in Tenor pans: no');
  // A VCA is in none of its own.
  await cell('BAND', 'RHYTHM').click();
  await expect(page.locator('.toast')).toContainText('A VCA cannot hold itself: RHYTHM → BAND → RHYTHM');

  await page.locator('.group .title', { hasText: 'Hand drums' }).click();
  const sheet = page.getByRole('complementary', { name: 'Group' });
  await expect(sheet).toContainText('5 channels. A move of one moves the others by the same difference.');
  await sheet.getByRole('checkbox', { name: 'pan', exact: true }).check();
  await expect(page.locator('.undo')).toHaveText('Undo: Change Hand drums');
  await cell('RHYTHM', 'Hand drums').click();
  await expect(sheet).toContainText('RHYTHM and 5 that it holds are both in here: a move of 1 dB is heard as 2 dB.');
  await sheet.getByRole('button', { name: 'Alt+1' }).click();
  await page.keyboard.press('Alt+7');
  await expect(sheet.getByRole('button', { name: 'Alt+7' })).toBeVisible();
  await page.mouse.move(5, 300);
  await page.keyboard.press('Alt+7');
  await expect(page.locator('.group .badge', { hasText: 'skin · paused' })).toBeVisible();
  expect(await grave(page, '.links')).toEqual([]);
});

// Taking stock as its user does it: the heap sorted by rule after a look, batch work, sets of what is shown, rules of one's own,
// a template with audio poured in, a track sheet there and back, one row heard.
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import type { Channel } from '../../core/session/entities';
import type { Desk } from '../../src/lib/state/desk';
import { startServer, type TestServer } from './server';

type Window = { isotaxis: Desk };
let server: TestServer;
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(() => server.remove());

const open = async (page: Page, session: string, view = 'roster') => {
  await page.goto(`${server.url}/s/${session}/${view}`);
  await page.locator('[data-row]').first().waitFor();
};
const label = (page: Page, name: string) => page.locator('[data-focus]', { hasText: new RegExp(`^${name}$`) });
const button = (page: Page, name: string | RegExp) => page.getByRole('button', { name, exact: typeof name === 'string' });
const channels = (page: Page): Promise<Channel[]> =>
  page.evaluate(() => [...(window as unknown as Window).isotaxis.store.session.channel.values()].sort((a, b) => a.position - b.position));
const named = async (page: Page, name: string) => (await channels(page)).find((channel) => channel.name === name)!;
const undo = (page: Page) => page.locator('.undo');
const pick = async (page: Page, first: string, last: string) => {
  await label(page, first).click();
  await label(page, last).click({ modifiers: ['Shift'] });
};

test('the heap becomes an orderly session: looked at, corrected, sorted as one step, undone as one', async ({ page }) => {
  await open(page, 'ferry-shed');
  await expect(page.locator('[data-row]').first()).toContainText('AUD_0001.wav');
  await button(page, 'Sort by rule…').click();
  const preview = page.getByRole('dialog');
  await expect(preview.getByRole('region', { name: 'Sorted' })).toContainText('HAND DRUMS');
  await expect(preview.getByRole('region', { name: 'Today' })).not.toContainText('HAND DRUMS');
  await page.getByRole('tab', { name: 'No rule 3' }).click();
  // What no rule knows, a person does.
  const rule = page.getByLabel('Rule for AUD_0004_take3.wav');
  await rule.selectOption((await rule.locator('option', { hasText: 'HAND DRUMS' }).getAttribute('value'))!);
  await page.getByLabel('Name for AUD_0004_take3.wav').fill('Caixa');
  await page.getByLabel('Name for AUD_0004_take3.wav').press('Tab');
  await page.getByRole('tab', { name: /^More than one rule/ }).click();
  await expect(preview.getByText('Also fits GUITARS; the first rule wins.')).toBeVisible();
  await page.getByLabel('Tiers').selectOption('1');
  await expect(preview.getByRole('region', { name: 'Sorted' })).not.toContainText('PERCUSSION');
  await page.getByLabel('Tiers').selectOption('2');
  await button(page, 'Sort 22 tracks').click();
  await expect(undo(page)).toHaveText('Undo: Sort 22 tracks by rule');
  const caixa = await named(page, 'Caixa');
  const bus = (await channels(page)).find(({ id }) => id === caixa.outputId)!;
  expect([bus.name, caixa.role]).toEqual(['HAND DRUMS', 'percussion']);
  const sections = (await channels(page)).filter(({ kind, outputId }) => kind === 'bus' && outputId === 'mix').map(({ name }) => name);
  expect(sections).toEqual(['PERCUSSION', 'PANS', 'BRASS', 'VOICES', 'ROOMS']);
  await page.keyboard.press('Control+z');
  await expect(undo(page)).toHaveText('Nothing to undo');
  await expect(label(page, 'repq tk3')).toBeVisible();
  await page.keyboard.press('Shift+Control+z');
  await expect(label(page, 'Repique')).toBeVisible();
});

test('a selection is renamed, coloured, trimmed, divided, paired, hidden and rested, each as one step', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await pick(page, 'Surdo low', 'Repique');
  await page.keyboard.press('F2');
  await page.getByLabel('Find', { exact: true }).fill('Surdo');
  await page.getByLabel('Replace with').fill('Drum');
  await expect(page.getByRole('region', { name: 'Names before and after' })).toContainText('Drum low');
  await button(page, 'Rename 2').click();
  await expect(undo(page)).toHaveText('Undo: Rename 2 channels');
  expect((await named(page, 'Drum low')).byHand).toContain('name');

  await button(page, 'Colour').click();
  await button(page, 'Gradient…').click();
  await button(page, 'Colour brick').click();
  await button(page, 'Colour fern').click();
  await expect(undo(page)).toHaveText('Undo: Colour 4 channels');
  const colours = (await channels(page)).filter(({ name }) => /^(Drum|Caixa|Repique)/.test(name)).map(({ colour }) => colour);
  expect([colours[0], colours[3]]).toEqual([0, 4]);
  expect(colours[1]).toBeGreaterThan(0);

  await button(page, 'Trim').click();
  await page.getByRole('menuitem', { name: 'To a common loudness…' }).click();
  await page.getByLabel('Trim to a loudness of').fill('-30');
  await page.keyboard.press('Enter');
  await expect(undo(page)).toHaveText('Undo: Trims of 4 channels');
  const [low] = (await channels(page)).filter(({ name }) => name === 'Drum low');
  const lufs = await page.evaluate((id) => {
    const { session } = (window as unknown as Window).isotaxis.store;
    return [...session.media.values()].find((row) => row.id === session.clip.get(`${id}:1`)!.mediaId)!.loudness![0]!;
  }, low.id);
  expect(low.trimDb).toBeCloseTo(-30 - lufs, 0);

  await button(page, 'Divider').click();
  await page.getByLabel('Divider above the selection').fill('On skins');
  await page.keyboard.press('Enter');
  await expect(page.locator('.caption')).toHaveText('On skins');

  await pick(page, 'Shaker L', 'Shaker R');
  await button(page, 'Pair').click();
  await page.getByRole('menuitem', { name: 'Pair two mono tracks' }).click();
  await expect(label(page, 'Shaker')).toBeVisible();
  expect(await named(page, 'Shaker')).toMatchObject({ width: 2, pan: -70, panRight: 70 });
  await button(page, 'Pair').click();
  await page.getByRole('menuitem', { name: 'Split into left and right' }).click();
  await expect(label(page, 'Shaker R')).toBeVisible();

  await pick(page, 'Drum low', 'Repique');
  await page.keyboard.press('h');
  await expect(page.getByText('4 hidden')).toBeVisible();
  await button(page, 'keep what is shown as a set').click();
  await page.getByLabel('Number of the set').selectOption('7');
  await page.getByLabel('Name of the set').fill('No skins');
  await button(page, 'Keep').click();
  await button(page, 'show all').click();
  await expect(label(page, 'Drum low')).toBeVisible();

  // The same sets, dividers and hidden rows in the Ledger.
  await page.getByRole('link', { name: 'Ledger' }).click();
  await expect(page.locator('.caption', { hasText: 'On skins' })).toBeVisible();
  await page.locator('body').press('7');
  await expect(button(page, '4 hidden')).toBeVisible();
  await expect(page.locator('.caption', { hasText: 'On skins' })).toBeVisible();
  await button(page, '4 hidden').click();
  await label(page, 'Slate').click();
  await page.getByRole('link', { name: 'Roster' }).click();
  await button(page, 'Rest').click();
  await expect(page.getByText('resting', { exact: true })).toBeVisible();
});

test('rows are found by words and figures and sorted for looking; the order of the session stays', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  const before = (await channels(page)).map(({ id }) => id);
  const rows = page.locator('[data-row] [data-focus]');
  await page.keyboard.press('/');
  await page.keyboard.type('trumpet');
  await expect(rows).toHaveText(['Trumpet 1', 'Trumpet 2']);
  await page.getByLabel('Find rows').fill('peak>-10.5');
  await expect(rows.first()).toBeVisible();
  expect(await rows.count()).toBeLessThan(6);
  await button(page, 'clear the filter').click();
  await page.getByRole('columnheader', { name: 'LUFS' }).getByRole('button').click();
  await expect(page.getByRole('columnheader', { name: 'LUFS' })).toHaveAttribute('aria-sort', 'ascending');
  await expect(rows.first()).toHaveText(/Shaker/);
  expect((await channels(page)).map(({ id }) => id)).toEqual(before);
});

test('rules of one’s own stay with the installation, broken ones say where', async ({ page }) => {
  await open(page, 'ferry-shed');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('sorting rules');
  await page.keyboard.press('Enter');
  await button(page, 'New rule').click();
  const words = page.getByLabel('Words of rule 1', { exact: true });
  await words.fill('/AUD_0007(/');
  await expect(page.getByText('At letter 10: missing closing )')).toBeVisible();
  await button(page, 'Keep these rules').click();
  await expect(page.getByRole('alert')).toContainText('Rule 1');
  await words.fill('/AUD_0007/');
  await page.getByLabel('Family of rule 1', { exact: true }).selectOption('PANS');
  await page.getByLabel('Name pattern of rule 1', { exact: true }).fill('Bass pan');
  await button(page, 'Keep these rules').click();
  await expect(page.getByRole('dialog').filter({ hasText: 'by rule' })).toBeVisible();
  await page.reload();
  await page.locator('[data-row]').first().waitFor();
  await button(page, 'Sort by rule…').click();
  await expect(page.getByLabel('Name for AUD_0007_take3.wav')).toHaveValue('Bass pan');
});

test('a template takes audio by name and role, a track sheet goes out and comes back', async ({ page }, { outputDir }) => {
  await open(page, 'ferry-shed');
  await button(page, 'Templates…').click();
  await button(page, 'Start a session').first().click();
  await page.getByLabel('Name of the new session').fill('Next evening');
  await button(page, 'Start').click();
  await expect(page.locator('header').getByRole('button', { name: 'Next evening' })).toBeVisible();
  await expect(label(page, 'Lead voice')).toBeVisible();
  const files = [
    ['singer lead_vox t2.wav', 300],
    ['TPT 2.wav', 320],
    ['Zither.wav', 340]
  ].map(([name, hertz]) => {
    const file = path.join(outputDir, String(name));
    mkdirSync(outputDir, { recursive: true });
    execFileSync('sox', ['-R', '-n', '-r', '48000', '-b', '24', file, 'synth', '1', 'sine', String(hertz), 'vol', '0.2']);
    return file;
  });
  await page.getByLabel('Audio files to pour').setInputFiles(files);
  await expect(page.getByLabel('Track for TPT 2.wav').locator('option:checked')).toHaveText('Trumpet 2');
  await expect(page.getByLabel('Track for Zither.wav').locator('option:checked')).toHaveText('new track “Zither”');
  await button(page, 'Pour').click();
  await expect(undo(page)).toHaveText('Undo: Pour 3 recordings into the template');
  expect(await named(page, 'Trumpet 1')).toMatchObject({ resting: true });
  expect(await named(page, 'Trumpet 2')).toMatchObject({ resting: false });

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    button(page, 'Sheet, rules')
      .click()
      .then(() => page.getByRole('menuitem', { name: 'Track sheet to a file' }).click())
  ]);
  expect(download.suggestedFilename()).toBe('Next evening tracks.csv');
  const sheet = readFileSync(await download.path(), 'utf8')
    .replace(',Zither,,', ',Zither of the shed,guitar,')
    .replace(',Zither.wav,', ',Lute.wav,');
  await page.getByLabel('Track sheet').setInputFiles({ name: 'edited.csv', mimeType: 'text/csv', buffer: Buffer.from(sheet) });
  await expect(page.getByRole('dialog')).toContainText('file cannot be changed in a sheet');
  await button(page, 'Make 2 changes').click();
  expect(await named(page, 'Zither of the shed')).toMatchObject({ role: 'guitar' });
  const twice = `${sheet}${sheet.split('\r\n')[1]}\r\n`;
  await page.getByLabel('Track sheet').setInputFiles({ name: 'twice.csv', mimeType: 'text/csv', buffer: Buffer.from(twice) });
  await expect(page.getByRole('alert')).toContainText('is in the sheet twice');
});

test('pressing a thumbnail plays that track from there and touches nothing else', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  const before = await channels(page);
  const thumb = button(page, 'Play Trombone');
  await thumb.click({ position: { x: 62, y: 12 } });
  const stop = button(page, 'Stop Trombone');
  await expect(stop.locator('.at')).toBeVisible();
  const at = async () => parseFloat((await stop.locator('.at').getAttribute('style'))!.split('left:')[1]);
  const first = await at();
  expect(first).toBeGreaterThan(45);
  await expect.poll(at).toBeGreaterThan(first + 0.5);
  expect(await channels(page)).toEqual(before);
  await stop.click();
  await expect(button(page, 'Play Trombone')).toBeVisible();
});

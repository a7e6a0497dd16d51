// Prints as a person makes them: stems that are sound or not and are mended, versions, a job that is cancelled, one that adds up.
import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
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

test('stems are judged and mended, versions chosen, a job cancelled, and one proved, heard and downloaded', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-finished/prints`);
  const aside = page.getByRole('complementary', { name: 'Print' });
  await expect(aside).toContainText('The stems are sound');
  await expect(aside).toContainText('whole in one but for EFFECTS, which is common');
  // Out of its stem: a way past them, and its repair.
  await page.evaluate(() => window.isotaxis.store.act([{ do: 'channels.route', ids: ['room-brass'], to: 'mix' }]));
  await expect(aside).toContainText('The stems do not add up');
  await expect(aside).toContainText('Sousaphone → Room brass → MIX');
  await page.getByRole('link', { name: 'Ledger' }).click();
  await expect(page.getByRole('img', { name: 'A stem: sound' }).first()).toBeVisible();
  await page.getByRole('link', { name: 'Map' }).click();
  await expect(page.getByText('stems: not sound')).toBeVisible();
  await page.getByRole('link', { name: 'Prints' }).click();
  await aside.getByRole('button', { name: 'Route Room brass to BRASS' }).click();
  await expect(aside).toContainText('The stems are sound');
  // A shared effect that is not common splits its tracks: the repair asks before it twins.
  await aside.getByRole('button', { name: 'common' }).last().click();
  await expect(aside).toContainText('The stems add up, and are not whole');
  await aside
    .getByRole('button', { name: /^Twin Glow for/ })
    .first()
    .click();
  await expect(page.getByRole('dialog')).toContainText('Twin Glow');
  await page.keyboard.press('Escape');
  await aside.getByRole('button', { name: 'EFFECTS is common to all' }).first().click();
  await expect(aside).toContainText('The stems are sound');
  expect(await grave(page, '.prints')).toEqual([]);

  for (const name of ['Instrumental', 'Voices only', 'No limiter']) await page.getByRole('button', { name: `Print ${name}` }).click();
  await aside.getByLabel('Format').selectOption('wav32f');
  await aside.getByLabel('From').fill('0');
  await aside.getByLabel('To').fill('0:04');
  await aside.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(aside).toContainText('One pass, and one more for “No lead”.');
  const start = aside.getByRole('button', { name: 'Print 6 stems, 2 versions and 2 more' });
  await start.click();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('Cancelled.').first()).toBeVisible();
  await page.getByRole('button', { name: 'Print again' }).click();
  const proof = page.getByRole('button', { name: /adds up/ });
  await expect(proof).toContainText('stems − input nothing · through the chain − mix nothing', { timeout: 120_000 });
  await proof.click();
  await expect(page.getByText('✓ through the chain − Voices +1')).toBeVisible();
  const files = page.locator('article').first().locator('tbody tr');
  await expect(files).toHaveCount(10);
  await expect(files.nth(3)).toContainText('Ferry Shed – finished - VOICES.wav stem');
  const [download] = await Promise.all([page.waitForEvent('download'), files.nth(7).getByRole('link', { name: 'Download' }).click()]);
  expect(download.suggestedFilename()).toBe('Ferry Shed – finished - mix.wav');
  expect(
    readFileSync((await download.path())!)
      .subarray(0, 4)
      .toString()
  ).toBe('RIFF');
  // Printed once more with other voices: heard in place, one against the other as loud.
  await page.evaluate(() => window.isotaxis.store.act([{ do: 'faders.set', levels: [{ id: 'drums', level: -9 }] }]));
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Print again' }).first().click();
  await expect(page.getByRole('button', { name: /adds up/ })).toHaveCount(2, { timeout: 120_000 });
  await page.getByRole('button', { name: 'Open Ferry Shed – finished - mix.wav' }).click();
  await page.getByLabel('Compare with').selectOption({ index: 1 });
  await expect(page.getByText(/LUFS, heard −\d\.\d dB/)).toHaveCount(1);
  await expect(page.getByRole('img', { name: 'Short-term loudness, LUFS, of A and B' })).toBeVisible();
  await page.getByRole('button', { name: 'Hear Ferry Shed – finished - mix.wav' }).click();
  const place = page.getByRole('slider', { name: 'Position in A' });
  const played = async () => Number(await place.getAttribute('aria-valuenow'));
  await expect.poll(played).toBeGreaterThan(5);
  await page.getByRole('button', { name: 'B', exact: true }).click();
  await expect.poll(played).toBeGreaterThan(15);
  expect(await grave(page, '.prints')).toEqual([]);
  // One thing is heard at a time: the session's playing stops the file.
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Hear Ferry Shed – finished - mix.wav' })).toBeVisible();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  const sheet = await page.context().newPage();
  await sheet.goto(server.url + (await page.getByRole('link', { name: 'Sheet' }).first().getAttribute('href')));
  await expect(sheet.getByText('All stems laid side by side at unity, less the mix-bus input')).toContainText('nothing is left');
  await sheet.close();
  for (const left of [2, 1, 0]) {
    await page.getByRole('button', { name: 'Delete' }).first().click();
    await expect(page.locator('article')).toHaveCount(left);
  }
  await expect(page.getByText('No prints yet.')).toBeVisible();
});

test('the version sheet is set by hand and by keyboard, and each version heard in the mix’s place', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-finished/prints`);
  const sheet = page.getByRole('grid', { name: 'Versions by stems' });
  await sheet.getByRole('gridcell', { name: 'PANS in Instrumental: in' }).click();
  await expect(sheet.getByRole('gridcell', { name: 'PANS in Instrumental: out' })).toBeFocused();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Space');
  await expect(sheet.getByRole('gridcell', { name: 'BRASS in Instrumental: out' })).toBeFocused();
  await expect(sheet.getByRole('gridcell', { name: 'PANS in Instrumental: out' })).toBeVisible();
  await page.keyboard.press('Delete');
  await expect(sheet.getByRole('gridcell', { name: 'PANS in Instrumental: in' })).toBeVisible();
  await page.keyboard.type('-3.5');
  await page.keyboard.press('Enter');
  await expect(sheet.getByRole('gridcell', { name: 'BRASS in Instrumental: −3.5' })).toBeFocused();
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowUp');
  await expect(sheet.getByRole('columnheader', { name: 'Instrumental' })).toBeFocused();
  // A menu whose first entries cannot be done now hears its keys all the same.
  await page.getByRole('button', { name: 'Fill…' }).click();
  await expect(page.getByRole('menuitem', { name: 'Only the stems selected' })).toBeDisabled();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('menu')).toBeHidden();
  await sheet.getByRole('columnheader', { name: 'Instrumental' }).focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(sheet.getByRole('columnheader').nth(2)).toHaveAccessibleName('Instrumental');
  await page.keyboard.press('F2');
  await page.keyboard.type('Without voices');
  await page.keyboard.press('Enter');
  await expect(sheet.getByRole('columnheader', { name: 'Without voices' })).toBeFocused();
  await page.getByRole('button', { name: 'Usual versions…' }).click();
  await page.getByRole('button', { name: /^Make these/ }).click();
  await expect(sheet.getByRole('columnheader', { name: 'Percussion only' })).toBeVisible();

  const heard = () => page.evaluate(() => window.isotaxis.transport.hearing);
  await expect(page.getByRole('dialog')).toBeHidden();
  // On a head Space hears it, and changes nothing.
  await sheet.getByText('Without voices').click();
  const label = await page.getByRole('button', { name: /^Undo/ }).textContent();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: /^Undo/ })).toHaveText(label!);
  await expect.poll(() => page.evaluate(() => window.isotaxis.transport.position)).toBeGreaterThan(24_000);
  expect(await heard()).toEqual({ version: 'instrumental' });
  await expect(page.getByLabel('Listen to', { exact: true })).toHaveValue('v instrumental');
  await page.getByLabel('on the bar').check();
  await page.getByRole('button', { name: 'Hear No lead' }).click();
  expect(await heard()).toEqual({ version: 'instrumental', next: 'no-lead' });
  await expect.poll(heard).toEqual({ version: 'no-lead' });
  await page.getByRole('link', { name: 'Ledger' }).click();
  await page.getByLabel('Listen to', { exact: true }).selectOption('#0');
  expect(await heard()).toEqual({ version: null });
  expect(await page.evaluate(() => window.isotaxis.store.session.channel.get('lead')?.mute ?? false)).toBe(false);
});

test('a return is asked back as a track from its row', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-finished/ledger`);
  await page.waitForFunction(() => window.isotaxis);
  await page.evaluate(() => window.isotaxis.selection.set(['glow'], 'glow'));
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Take its sound');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'And let the original rest' }).click();
  // What becomes of it is the server's, and tested there.
  await expect(page.getByText('Printing it. It comes back here as a track when it is done')).toBeVisible();
  await page.getByRole('link', { name: 'Prints' }).click();
  await expect(page.getByText('Ferry Shed – finished – Glow')).toBeVisible();
});

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
  await expect(proof).toContainText('stems − input nothing · through the chain − mix nothing', { timeout: 60_000 });
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
  await page.getByRole('button', { name: 'Hear Ferry Shed – finished - VOICES.wav' }).click();
  await expect
    .poll(() =>
      files
        .nth(3)
        .locator('audio')
        .evaluate((audio: HTMLAudioElement) => audio.currentTime)
    )
    .toBeGreaterThan(0.2);
  for (const left of [1, 0]) {
    await page.getByRole('button', { name: 'Delete' }).first().click();
    await expect(page.locator('article')).toHaveCount(left);
  }
  await expect(page.getByText('No prints yet.')).toBeVisible();
});

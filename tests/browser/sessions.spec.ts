// The sessions page as a user sees it: ways in, the guided path, the shelf and its bin, a session removed under an open page, a backup.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import { grave } from './axe';
import { startServer, type TestServer } from './server';

let server: TestServer;
let folder: string;
test.beforeAll(async () => {
  server = await startServer();
  folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-sessions-'));
});
test.afterAll(async () => {
  await server.remove();
  rmSync(folder, { recursive: true });
});

/** A WAV file of silence with one click, 16 bit, by its bytes. */
function wav(name: string, rate: number): string {
  const data = Buffer.alloc(rate);
  data.writeInt16LE(12_000, 200);
  const head = Buffer.alloc(44);
  head.write('RIFF', 0).toString();
  head.writeUInt32LE(36 + data.length, 4);
  head.write('WAVEfmt ', 8);
  [16, 0x00010001, rate, rate * 2, 0x00100002].forEach((value, i) => head.writeUInt32LE(value, 16 + 4 * i));
  head.write('data', 36);
  head.writeUInt32LE(data.length, 40);
  const file = path.join(folder, name);
  writeFileSync(file, Buffer.concat([head, data]));
  return file;
}

test('who comes first is shown three ways in; audio makes a session of its own rate, the demo leads through six steps', async ({
  page
}) => {
  await page.goto(server.url);
  const ways = page.getByRole('region', { name: 'Ways in' });
  await expect(ways.getByRole('heading')).toHaveText(['Try the demo', 'Bring in audio', 'From a template']);
  expect(await grave(page, '.page')).toEqual([]);
  // By night other colours: the rest was looked at.
  await page.getByRole('button', { name: 'Night colours' }).click();
  expect(await grave(page, '.page', ['color-contrast'])).toEqual([]);
  await ways.getByRole('button', { name: 'Walk through it' }).click();
  const card = page.getByRole('complementary', { name: 'Guided path' });
  await expect(card).toContainText('1 of 6: Take stock');
  await card.getByRole('button', { name: 'Next' }).click();
  // What is to be done is done: the card says so by its button.
  await expect(card.getByRole('button', { name: 'Skip' })).toBeVisible();
  await page.getByRole('button', { name: 'Sort by rule…' }).click();
  await page.getByRole('button', { name: /^Sort 2\d tracks/ }).click();
  await card.getByRole('button', { name: 'Next' }).click();
  await expect(page).toHaveURL(/\/ledger$/);
  await expect(card).toContainText('3 of 6: Set levels');
  await page.reload();
  await expect(card).toContainText('3 of 6');
  await card.getByRole('button', { name: 'Leave the path' }).click();
  await expect(card).toBeHidden();
  await page.reload();
  await page.locator('[data-row]').first().waitFor();
  await expect(card).toBeHidden();

  await page.getByRole('link', { name: 'Isotaxis' }).click();
  await expect(page).toHaveURL(`${server.url}/`);
  await page.getByLabel('Audio files').setInputFiles([wav('Surdo 1.wav', 44_100), wav('Surdo 2.wav', 44_100)]);
  await expect(page).toHaveURL(/\/roster$/);
  await expect(page.locator('[data-row]')).toHaveCount(2);
  await expect(page.locator('.saving')).toHaveText('Saved');
  await page.goto(server.url);
  const row = page.locator('[data-session]', { hasText: 'New session of' });
  await expect(row).toContainText('44.1 kHz');
  await expect(ways).toBeHidden();
});

test('sessions are found, copied, renamed, binned and brought back; an open page says that its session went, and leads back', async ({
  page,
  context
}) => {
  await page.goto(server.url);
  const rows = page.locator('[data-session]');
  const act = async (name: string, what: string) => {
    await page.getByRole('button', { name: `What to do with ${name}`, exact: true }).click();
    await page.getByRole('button', { name: what }).click();
  };
  await act('Ferry Shed – half-way', 'Duplicate…');
  await page.getByRole('dialog').getByLabel('Name').fill('Evening take');
  await page.getByRole('button', { name: 'Duplicate', exact: true }).click();
  await expect(rows.filter({ hasText: 'Evening take' })).toBeVisible();
  await act('Evening take', 'Rename…');
  await page.getByRole('dialog').getByLabel('Name').fill('Second evening');
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  await expect(page.getByRole('dialog')).toBeHidden();
  await page.getByRole('searchbox').fill('EVENING second');
  await expect(rows).toHaveText([/Second evening/]);
  const id = (await rows.getAttribute('data-session'))!;

  const other = await context.newPage();
  await other.goto(`${server.url}/s/${id}/ledger`);
  await other.locator('[data-row]').first().waitFor();
  await act('Second evening', 'Remove…');
  await page.getByRole('button', { name: 'Into the bin' }).click();
  await expect(rows).toHaveCount(0);
  const dialog = other.getByRole('dialog', { name: 'This session is in the bin' });
  await dialog.getByRole('button', { name: 'Bring it back' }).click();
  await expect(dialog).toBeHidden();
  // It goes on as before: what is done is kept.
  await other.evaluate(() =>
    (window as never as { isotaxis: { store: { act: (c: object[]) => void } } }).isotaxis.store.act([
      { do: 'settings.set', name: 'Third evening' }
    ])
  );
  await expect(other.locator('.saving')).toHaveText('Saved');
  await page.reload();
  await act('Third evening', 'Remove…');
  await page.getByRole('button', { name: 'Into the bin' }).click();
  await page.getByRole('tab', { name: 'Bin (1)' }).click();
  await page.getByRole('button', { name: 'Remove for good…' }).click();
  await page.getByRole('button', { name: 'Remove for good', exact: true }).click();
  await expect(page.getByText('Nothing lies in the bin.')).toBeVisible();
  // A page that was told of the bin, and loads anew, is led back as well.
  await other.reload();
  await expect(other.getByRole('heading')).toHaveText('This is not here');
  await other.getByRole('link', { name: 'All sessions' }).click();
  await expect(other.locator('[data-session]').first()).toBeVisible();
  await other.close();
});

test('a backup is made and restored from the page; one that was cut short is refused in words', async ({ page }) => {
  await page.goto(server.url);
  await page.getByRole('tab', { name: 'Storage and backup' }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Make a backup' }).click()]);
  const file = path.join(folder, 'all.zip');
  await download.saveAs(file);
  const before = await (await fetch(`${server.url}/api/sessions`)).text();
  await fetch(`${server.url}/api/sessions/ferry-shed-halfway?final=1`, { method: 'DELETE' });
  await page.reload();
  await page.getByRole('tab', { name: 'Storage and backup' }).click();
  const restore = async (name: string, says: RegExp) => {
    await page.getByLabel('Backup', { exact: true }).setInputFiles(name);
    await page.getByRole('button', { name: 'Restore', exact: true }).click();
    await expect(page.locator('.toast')).toContainText(says, { timeout: 120_000 });
  };
  const cut = path.join(folder, 'cut.zip');
  const bytes = readFileSync(file);
  writeFileSync(cut, bytes.subarray(0, bytes.length - 3000));
  await restore(cut, /It was cut short or changed; nothing of it was taken/);
  await restore(file, /Restored: \d sessions/);
  expect(await (await fetch(`${server.url}/api/sessions`)).text()).toBe(before);
});

// A large session and the keyboard: rows drawn as needed, crosspoints as a spreadsheet, the palette, the sheet;
// and what may not come in.
import { request as httpRequest } from 'node:http';
import { expect, test, type Page } from '@playwright/test';
import type { Desk } from '../../src/lib/state/desk';
import { startServer, type TestServer } from './server';

let server: TestServer;
let large = '';
type Window = { isotaxis: Desk };

test.beforeAll(async () => {
  server = await startServer();
  const post = async (where: string, body: object) =>
    (await (await fetch(server.url + where, { method: 'POST', body: JSON.stringify(body) })).json()) as { id: string };
  large = (await post('/api/sessions', { name: 'Large' })).id;
  // A recording that the store has: others would be refused.
  const demo = (await (await fetch(`${server.url}/api/sessions/ferry-shed`)).json()) as { document: { media: { channels: number }[] } };
  const media = demo.document.media.find(({ channels }) => channels === 1);
  const tracks = Array.from({ length: 480 }, (_, i) => ({ id: `t${i}`, name: `Track ${i}`, media }));
  const commands = [
    { do: 'tracks.add', tracks },
    ...Array.from({ length: 20 }, (_, i) => ({
      do: 'returns.add',
      id: `r${i}`,
      name: `Return ${i}`,
      effect: 'none',
      sources: tracks.map(({ id }) => id)
    }))
  ];
  await post(`/api/sessions/${large}/commands`, { base: 0, id: 'all', commands });
});
test.afterAll(() => server.remove());

const open = async (page: Page, session: string, view = 'ledger') => {
  await page.goto(`${server.url}/s/${session}/${view}`);
  await page.waitForFunction(() => 'isotaxis' in window);
};
const level = (page: Page, source: string, target: string) =>
  page.evaluate(([from, to]) => (window as unknown as Window).isotaxis.store.session.send.get(`${from}\n${to}`)?.levelDb, [source, target]);

test('500 channels: only rows on screen are drawn, and the keyboard reaches the last', async ({ page }) => {
  await open(page, large);
  await expect(page.locator('[data-row]').first()).toBeVisible();
  expect(await page.locator('[data-row]').count()).toBeLessThan(45);
  await page.locator('[data-focus=mix]').click();
  await page.keyboard.press('Control+a');
  await expect(page.getByText('501 selected')).toBeVisible();
  await page.locator('[data-focus=mix]').click();
  for (let i = 0; i < 40; i++) await page.keyboard.press('ArrowDown');
  await expect(page.locator('[data-focus=t39]')).toBeFocused();
});

test('crosspoints are moved through and filled in as in a spreadsheet', async ({ page }) => {
  await open(page, large);
  const cell = (source: string, target: string) => page.locator(`[data-cross="${source} ${target}"]`);
  const worked = (source: string, target: string) => expect(page.locator(`[data-cross="${source} ${target}"]:focus-within`)).toBeVisible();
  await cell('t0', 'r0').focus();
  const steps = [
    ['ArrowRight', 't0', 'r1'],
    ['ArrowDown', 't1', 'r1'],
    ['ArrowDown', 't2', 'r1'],
    ['ArrowLeft', 't2', 'r0'],
    ['ArrowUp', 't1', 'r0']
  ] as const;
  for (const [key, source, target] of steps) {
    await page.keyboard.press(key);
    await worked(source, target);
  }
  await page.keyboard.type('-6');
  await page.keyboard.press('Enter');
  await worked('t2', 'r0');
  await page.keyboard.type('-7.5');
  await page.keyboard.press('Enter');
  await worked('t3', 'r0');
  await page.keyboard.press('Control+ArrowUp');
  await expect.poll(() => level(page, 't1', 'r0')).toBe(-6);
  expect(await level(page, 't2', 'r0')).toBe(-7.5);
  expect(await level(page, 't3', 'r0')).toBe(-60);
  for (let i = 1; i <= 12; i++) {
    await page.keyboard.press('ArrowRight');
    await worked('t3', `r${i}`);
  }
});

test('the palette finds every command and runs it, the sheet shows the keys', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await page.locator('[data-focus]').nth(3).click();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('add comp');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('img', { name: 'Level out over level in' })).toBeVisible();
  await page.getByLabel('Threshold', { exact: false }).first().focus();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('img', { name: 'Level out over level in' })).toBeHidden();
  await page.locator('body').press('?');
  const sheet = page.getByRole('dialog');
  for (const words of ['New bus from selection', 'Play or stop', 'go from crosspoint to crosspoint; with Ctrl, ↑ ↓ nudge'])
    await expect(sheet.getByText(words)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(sheet).toBeHidden();
});

/** A request as no browser would send it. */
const raw = (path: string, headers: Record<string, string> = {}, method = 'GET'): Promise<number> =>
  new Promise((resolve, reject) => {
    const { hostname, port } = new URL(server.url);
    const request = httpRequest({ hostname, port, path, method, headers }, (response) => {
      response.resume();
      resolve(response.statusCode ?? 0);
    });
    request.on('error', reject);
    request.end();
  });

test('other names, paths that lead elsewhere and strange sizes are refused; no script runs inline', async () => {
  expect(await raw('/api/sessions', { Host: 'evil.example' })).toBe(403);
  expect(await raw('/api/sessions', { Host: 'localhost:1' })).toBe(200);
  expect(await raw('/api/sessions', { Origin: 'http://evil.example' }, 'POST')).toBe(403);
  expect(await raw('/api/sessions', { 'Sec-Fetch-Site': 'cross-site' }, 'POST')).toBe(403);
  for (const path of [
    '/..%2f..%2fetc/passwd',
    '/api/peaks/..%2f..%2f..%2fetc%2fpasswd',
    '/_app/../../package.json',
    '/api/prints/..%2f..%2fowner.json'
  ])
    expect(await raw(path), path).toBeGreaterThanOrEqual(400);
  const huge = await fetch(`${server.url}/api/sessions`, { method: 'POST', body: JSON.stringify({ name: 'x'.repeat(5_000_000) }) });
  expect(huge.status).toBe(413);
  const bad = await fetch(`${server.url}/api/packages`, { method: 'POST', body: 'not a zip' });
  expect(await bad.json()).toMatchObject({ error: { code: 'damaged' } });
  const policy = (await fetch(`${server.url}/s/ferry-shed/ledger`)).headers.get('content-security-policy')!;
  expect(policy).toContain("script-src 'self'");
  expect(policy.split(';').find((part) => part.includes('script-src'))).not.toContain("'unsafe-inline'");
});

// Two pages on one session: they end equal whatever the server does, half a loop each ends with one refused, and what was
// not acknowledged outlives the page.
import { expect, test, type Page } from '@playwright/test';
import type { Desk } from '../../src/lib/state/desk';
import { startServer, type TestServer } from './server';

let server: TestServer;
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(() => server.remove());

const SESSION = 'ferry-shed-halfway';
const open = async (page: Page) => {
  await page.goto(`${server.url}/s/${SESSION}/ledger`);
  await page.waitForFunction(() => 'isotaxis' in window);
};
const rows = (document: object): string[] =>
  Object.entries(document)
    .flatMap(([table, list]) =>
      (list as object[]).map(
        (row) =>
          `${table} ${JSON.stringify(row, (_, value: unknown) => (typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.fromEntries(Object.entries(value).sort()) : value))}`
      )
    )
    .sort();
const shown = async (page: Page) => rows(await page.evaluate(() => (window as unknown as { isotaxis: Desk }).isotaxis.store.document()));
const stored = async (page: Page) =>
  rows(((await (await page.request.get(`${server.url}/api/sessions/${SESSION}`)).json()) as { document: object }).document);
const saved = (page: Page) =>
  expect
    .poll(() => page.evaluate(() => (window as unknown as { isotaxis: Desk }).isotaxis.store.saving), { timeout: 120_000 })
    .toBe('saved');

/** 120 random moves in a page, some milliseconds apart: faders, sends, mutes, names, buses made and removed, undo. */
const play = (page: Page, seed: number) =>
  page.evaluate(async (start) => {
    const { store } = (window as unknown as { isotaxis: Desk }).isotaxis;
    let state = start;
    const next = (below: number) => (state = (Math.imul(state, 48271) >>> 0) % 2147483647) % below;
    const pick = <T>(list: readonly T[]): T => list[next(list.length)];
    const ids = (...kinds: string[]) => [...store.session.channel.values()].filter(({ kind }) => kinds.includes(kind)).map(({ id }) => id);
    for (let i = 0; i < 120; i++) {
      const track = pick(ids('track'));
      const kind = next(8);
      if (kind < 3)
        store.act(
          [{ do: 'faders.set', levels: [{ id: pick(ids('track', 'bus', 'return')), level: -next(400) / 10 }] }],
          next(2) ? `g${start}` : null
        );
      else if (kind === 3) store.act([{ do: 'mutes.set', ids: [track], on: next(2) === 1 }]);
      else if (kind === 4)
        store.act([{ do: 'sends.set', sends: [{ source: track, target: pick(ids('return')), level: -next(300) / 10 }] }]);
      else if (kind === 5) store.act([{ do: 'buses.add', id: crypto.randomUUID(), name: `B${i}`, members: [track] }]);
      else if (kind === 6) store.act([{ do: 'channels.route', ids: [pick(ids('track', 'bus'))], to: pick(ids('bus', 'mix')) }]);
      else if (ids('bus').length > 4) store.act([{ do: 'channels.remove', ids: [pick(ids('bus'))] }]);
      await new Promise((resolve) => setTimeout(resolve, next(40)));
    }
  }, seed);

test('two pages and a server that is killed at random end equal, with all that was acknowledged', async ({ browser }) => {
  test.setTimeout(180_000);
  const [one, two] = [await browser.newPage(), await browser.newPage()];
  await open(one);
  await open(two);
  let over = false;
  const killing = (async () => {
    for (let i = 0; !over && i < 3; i++) {
      await one.waitForTimeout(400 + ((i * 977) % 900));
      await server.kill();
      await server.start();
    }
  })();
  await Promise.all([play(one, 12345), play(two, 67890)]);
  over = true;
  await killing;
  await Promise.all([saved(one), saved(two)]);
  await expect.poll(async () => (await shown(one)).join() === (await shown(two)).join(), { timeout: 120_000 }).toBe(true);
  expect(await shown(one)).toEqual(await stored(one));
  await server.kill();
  await server.start();
  expect(await stored(one)).toEqual(await shown(two));
  await one.close();
  await two.close();
});

test('half a loop from each page ends with one of them refused, in words', async ({ browser }) => {
  const [one, two] = [await browser.newPage(), await browser.newPage()];
  await open(one);
  await open(two);
  const act = (page: Page, commands: object[]) =>
    page.evaluate((list) => (window as unknown as { isotaxis: Desk }).isotaxis.store.act(list as never), commands);
  await act(one, [
    { do: 'buses.add', id: 'loop-x', name: 'LX' },
    { do: 'buses.add', id: 'loop-y', name: 'LY' }
  ]);
  await expect.poll(async () => (await shown(two)).some((row) => row.includes('loop-y'))).toBe(true);
  // Neither page has heard of the other's half when it makes its own.
  await Promise.all([
    act(one, [{ do: 'channels.route', ids: ['loop-x'], to: 'loop-y' }]),
    act(two, [{ do: 'channels.route', ids: ['loop-y'], to: 'loop-x' }])
  ]);
  await Promise.all([saved(one), saved(two)]);
  await expect.poll(async () => (await shown(one)).join() === (await shown(two)).join()).toBe(true);
  const notices = await Promise.all(
    [one, two].map((page) => page.evaluate(() => (window as unknown as { isotaxis: Desk }).isotaxis.store.notice?.text ?? ''))
  );
  expect(notices.filter((text) => text.startsWith('Not done: This would feed back'))).toHaveLength(1);
  await one.close();
  await two.close();
});

test('a move made while the server is away outlives the page, and is saved by the next one', async ({ browser }) => {
  const context = await browser.newContext();
  const page = await context.newPage();
  await open(page);
  const target = await page.evaluate(() => {
    const { store } = (window as unknown as { isotaxis: Desk }).isotaxis;
    return [...store.session.channel.values()].find(({ kind }) => kind === 'track')!.id;
  });
  await server.kill();
  await page.evaluate(
    (id) => (window as unknown as { isotaxis: Desk }).isotaxis.store.act([{ do: 'faders.set', levels: [{ id, level: -33.25 }] }]),
    target
  );
  await page.close();
  await server.start();
  const next = await context.newPage();
  await open(next);
  await expect.poll(async () => (await stored(next)).some((row) => row.includes(`"${target}"`) && row.includes('-33.25'))).toBe(true);
  // The server has the row a moment before the page has its answer.
  const kept = () => next.evaluate(() => Object.keys(localStorage).filter((name) => name.startsWith('isotaxis outbox')));
  await expect.poll(kept).toEqual([]);
  await context.close();
});

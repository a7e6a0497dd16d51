// Lanes under a real pointer: drawn, dragged, typed and thrown; a fader's drag written while it plays is the lane that stands afterwards.
import { expect, test, type Page } from '@playwright/test';
import { valueAt } from '../../core/lanes/course';
import { dbAt, railAt } from '../../src/lib/ui/scale';
import { grave } from './axe';
import { startServer, type TestServer } from './server';

let server: TestServer;
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(() => server.remove());

const pointsOf = (page: Page, channel: string) =>
  page.evaluate((name) => {
    const { store } = window.isotaxis;
    const { id } = store.channels.find((each) => each.name === name)!;
    return store.lanes(id).map((lane) => store.points(lane.id).map(({ at, value, shape }) => ({ at, value, shape })));
  }, channel);

test('lanes are made, drawn, dragged, typed, thrown and undone', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-finished/timeline`);
  const undo = page.getByRole('button', { name: /^Undo: / });
  const aside = page.getByRole('complementary', { name: 'Clip' });
  await page.getByRole('button', { name: 'Automated' }).click();
  await expect(page.locator('[data-points]')).toHaveCount(3);
  await aside.getByRole('button', { name: 'Glow fader', exact: true }).click();
  await expect(aside).toContainText('Points · 5');
  const lane = page.getByRole('gridcell', { name: /^fader of Glow/ });
  const box = (await lane.boundingBox())!;
  const [before] = await pointsOf(page, 'Glow');
  // A point set by a click, dragged on, typed, made eased, taken away.
  await page.mouse.click(box.x + 120, box.y + 20);
  await expect(undo).toHaveText('Undo: A point of the fader of Glow');
  await page.mouse.move(box.x + 120, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + 180, box.y + 30, { steps: 6 });
  await page.mouse.up();
  await expect(undo).toHaveText('Undo: Move a point of the fader of Glow');
  const [moved] = await pointsOf(page, 'Glow');
  expect(moved).toHaveLength(6);
  const own = aside.locator('.point.chosen');
  await own.getByRole('button', { name: /^Value of the point/ }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('-7.5');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await pointsOf(page, 'Glow'))[0][1].value).toBe(-7.5);
  await lane.focus();
  await page.keyboard.press('e');
  await expect.poll(async () => (await pointsOf(page, 'Glow'))[0][1].shape).toBe('eased');
  await page.keyboard.press('Delete');
  await expect.poll(() => pointsOf(page, 'Glow')).toEqual([before]);
  // Drawn by hand: it takes the place of what was there, with few points.
  await page.mouse.move(box.x + 300, box.y + 36);
  await page.mouse.down();
  for (let i = 1; i <= 60; i++) await page.mouse.move(box.x + 300 + i * 2, box.y + 24 + 12 * Math.cos(i / 9));
  await page.mouse.up();
  await expect(undo).toHaveText(/^Undo: \d+ points of the fader of Glow/);
  const [drawn] = await pointsOf(page, 'Glow');
  expect(drawn.length).toBeGreaterThan(10);
  expect(drawn.length).toBeLessThan(60);
  expect(await grave(page, '.timeline')).toEqual([]);
  await page.keyboard.press('Control+z');
  await expect.poll(() => pointsOf(page, 'Glow')).toEqual([before]);
  // A new lane from the list, and a hand on the fader that it plays is refused with a word.
  await page.getByRole('button', { name: 'Lead voice', exact: true }).click();
  await page.keyboard.press('a');
  await page.keyboard.type('fader');
  await page.keyboard.press('Enter');
  await expect(undo).toHaveText('Undo: New lane: fader of Lead voice');
  await page.evaluate(() => {
    const { store } = window.isotaxis;
    const { id } = store.channels.find(({ name }) => name === 'Lead voice')!;
    store.act([{ do: 'faders.set', levels: [{ id, level: -9 }] }]);
  });
  await expect(page.getByText('The fader of Lead voice follows its lane.')).toBeVisible();
});

test('a drag that is written while it plays is the lane, and one undo entry', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-halfway/ledger`);
  const pin = page.getByRole('button', { name: 'Fader of Surdo low', exact: true });
  await page.getByLabel('moves are written').selectOption('held');
  const began = await page.evaluate(() => window.isotaxis.store.channels.find(({ name }) => name === 'Surdo low')!.faderDb);
  const box = (await pin.boundingBox())!;
  const width = await pin.evaluate((element) => element.closest('.rail')!.clientWidth);
  await page.evaluate(() => {
    const { transport } = window.isotaxis;
    transport.locate(3 * 48_000);
    const heard: { x: number; at: number }[] = Object.assign(window, { heard: [] }).heard;
    window.addEventListener(
      'pointermove',
      ({ clientX, buttons }) => buttons && heard.push({ x: clientX, at: Math.round(transport.position) }),
      true
    );
  });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(() => page.evaluate(() => window.isotaxis.transport.position)).toBeGreaterThan(3.3 * 48_000);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  // Down and up, with a rest in the middle.
  for (let i = 1; i <= 40; i++) {
    await page.mouse.move(x - 50 * Math.sin((i / 40) * Math.PI * 1.4), y);
    if (i === 20) await page.waitForTimeout(250);
  }
  await page.mouse.up();
  await expect(page.getByRole('button', { name: /^Undo: .*fader of Surdo low/ })).toBeVisible();
  const heard = await page.evaluate(() => (window as unknown as { heard: { x: number; at: number }[] }).heard);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  const [points] = await pointsOf(page, 'Surdo low');
  const done = new Map<number, number>();
  for (const { x: to, at } of heard) {
    const level = dbAt(Math.max(0, Math.min(1, railAt(began) + (to - x) / width)));
    done.set(at, Math.abs(level) < 0.25 ? 0 : Math.round(level * 10) / 10);
  }
  expect(done.size).toBeGreaterThan(8);
  for (const [at, level] of [...done].slice(1)) {
    const near = [-64, 0, 64].map((by) => Math.abs(valueAt(points, 'level', at + by) - level));
    expect(Math.min(...near), `at ${at}, ${level} dB`).toBeLessThan(0.101);
  }
  // Fewer points than moves; before it and after its glide the fader is what it was; one step back takes all of it.
  expect(valueAt(points, 'level', 0)).toBe(began);
  await page.keyboard.press('Control+z');
  await expect.poll(() => pointsOf(page, 'Surdo low')).toEqual([]);
});

test('every view says what lanes play at the playhead: pans, levels with VCAs, sends, values of inserts, traces', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-finished/ledger`);
  await page.locator('[data-row]').first().waitFor();
  await page.evaluate(() => {
    const { store, transport } = window.isotaxis;
    const named = (name: string) => store.channels.find((each) => each.name === name)!.id;
    const [voice, band] = [named('Choir S'), named('BAND')];
    const insert = store.inserts(named('Lead voice')).find(({ type }) => type === 'eq')!;
    const led = (id: string, lane: object, value: number) => [
      { do: 'lanes.add', id, ...lane, alone: true },
      {
        do: 'points.set',
        lane: id,
        points: [
          { at: 0, value, shape: 'linear' },
          { at: 480_000, value: value + 4 }
        ],
        alone: true
      }
    ];
    store.act([
      ...led('one', { channelId: voice, of: 'pan' }, -62),
      ...led('two', { channelId: band, of: 'fader' }, -14),
      ...led('three', { channelId: voice, of: 'faderTrim' }, -2),
      ...led('four', { channelId: insert.channelId, of: 'param', insertId: insert.id, param: 'b3.gain' }, -9),
      ...led('five', { channelId: insert.channelId, of: 'pan' }, 31)
    ] as never);
    // In the middle: 2 more than at first.
    transport.locate(240_000);
  });
  await page.evaluate(() => document.querySelector('.scroll')!.scrollTo(0, 9999));
  await expect(page.getByRole('button', { name: 'Pan of Choir S: L 60' })).toBeVisible();
  await page.getByRole('button', { name: 'Lead voice', exact: true }).click();
  const sheet = page.getByRole('complementary', { name: 'Channel' });
  await expect(sheet).toContainText('Where it goes at 0:05.000');
  await expect(sheet).toContainText('VCA BAND by lane −12.0');
  await expect(sheet.getByRole('button', { name: 'Pan of Lead voice, in the sheet: R 33' })).toBeVisible();
  await expect(sheet.locator('.editor').first()).toContainText('−7.0');
  await page.goto(`${server.url}/s/ferry-shed-finished/links`);
  await page.locator('[data-row]').first().waitFor();
  await page.evaluate(() => window.isotaxis.transport.locate(240_000));
  await expect(page.locator('.head').getByRole('button', { name: 'Fader of BAND in dB: −12.0' })).toBeVisible();
  const surdo = page.locator('[data-row]', { hasText: 'Surdo low' });
  await expect(surdo.locator('.whole')).toHaveText('−16.5');
});

// Routing as an engineer does it: the tree, the crosspoints, twins, cues and their players, solo, the trace and the Map.
import { readFileSync } from 'node:fs';
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

const open = async (page: Page, session: string, view = 'ledger') => {
  await page.goto(`${server.url}/s/${session}/${view}`);
  await page
    .locator(view === 'map' ? '[data-node]' : '[data-row]')
    .first()
    .waitFor();
};
const saved = (page: Page) => expect(page.locator('.saving')).toHaveText('Saved');
const row = (page: Page, name: string) => page.locator('.rows [data-focus]').filter({ hasText: new RegExp(`^${name}$`) });
const menu = (page: Page, entry: string) => page.getByRole('menuitem', { name: entry, exact: true }).click();
const send = (page: Page, key: string) =>
  page.evaluate((name) => {
    const found = window.isotaxis.store.session.send.get(name);
    return found ? { level: String(found.levelDb), tap: found.tap, on: found.on } : null;
  }, key);
const undoLabel = (page: Page) => page.locator('header .undo');

test('buses are inserted, dissolved and duplicated, the mix chain grows, a row is pinned and found by name', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await row(page, 'PANS').click({ button: 'right' });
  await menu(page, 'Insert a bus before its members…');
  await page.keyboard.type('STEEL');
  await page.keyboard.press('Enter');
  await expect(row(page, 'STEEL')).toBeVisible();
  await expect(undoLabel(page)).toHaveText('Undo: Insert bus STEEL before PANS');
  await row(page, 'STEEL').click();
  await page.keyboard.press('g');
  await expect(page.locator('.pins [data-focus]', { hasText: 'STEEL' })).toBeVisible();
  await row(page, 'STEEL').click({ button: 'right' });
  await menu(page, 'Dissolve…');
  await page.getByRole('button', { name: 'Keep what is heard' }).click();
  await expect(row(page, 'STEEL')).toHaveCount(0);
  await row(page, 'MIX').click({ button: 'right' });
  await menu(page, 'Add a stage to the mix chain…');
  await page.keyboard.type('FINAL');
  await page.keyboard.press('Enter');
  // The head of the chain stands above the mix bus.
  const names = await page.locator('.rows [data-focus]').allTextContents();
  expect(names.indexOf('FINAL')).toBe(names.indexOf('MIX') - 1);
  await row(page, 'BRASS').click({ button: 'right' });
  await menu(page, 'Duplicate with all that goes in');
  await page.keyboard.press('/');
  await page.keyboard.type('trumpet 4');
  await page.keyboard.press('Enter');
  await expect(page.locator('.rows [data-focus]:focus')).toHaveText(/Trumpet [34]/);
  await page.keyboard.press('r');
  await page.keyboard.type('outputs 5');
  await page.keyboard.press('Enter');
  await expect(undoLabel(page)).toHaveText(/Undo: Route Trumpet [34] to outputs 5–6/);
  await saved(page);
});

test('crosspoints are copied, pasted and filled as blocks; taps keep the level; a column opens into a lane', async ({ page }) => {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await open(page, 'ferry-shed-finished');
  const cell = (source: string, target: string) => page.locator(`.rows [data-cross="${source} ${target}"]`);
  const at = async (source: string, target: string) => {
    await cell(source, target).focus();
    await expect(page.locator(`.rows [data-cross="${source} ${target}"]:focus-within`)).toBeVisible();
  };
  // Two rows of two returns, below one another.
  await at('t2', 'room-drums');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.locator('.rows .picked')).toHaveCount(4);
  await page.keyboard.press('Control+c');
  await page.keyboard.press('ArrowDown');
  await at('t6', 'room-drums');
  await page.keyboard.press('Control+v');
  await expect.poll(() => send(page, 't6\nroom-drums')).toEqual({ level: '-15', tap: 'post', on: true });
  await expect.poll(() => send(page, 't6\npress')).toEqual({ level: '-2', tap: 'post', on: true });
  expect(await send(page, 't7\nroom-drums')).toEqual({ level: '-13', tap: 'post', on: true });
  // The same for a rectangle of one column.
  await at('t2', 'room-drums');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('=');
  expect((await send(page, 't2\nroom-drums'))!.level).toBe((await send(page, 't4\nroom-drums'))!.level);
  // A tap before the fader, with the level kept: fader −3 and send −11 are −14 before it.
  const before = Number((await send(page, 't2\nroom-drums'))!.level);
  await page.keyboard.press('ArrowUp');
  await cell('t2', 'room-drums').click({ button: 'right' });
  await menu(page, 'Take before the fader, level kept');
  // Its fader is at −3 dB, the VCA over it at −1.5.
  expect(await send(page, 't2\nroom-drums')).toEqual({ level: String(before - 4.5), tap: 'pre', on: true });
  await page
    .getByRole('columnheader', { name: /Room drums/ })
    .getByRole('button')
    .click();
  await menu(page, 'Open as a lane of faders');
  const pin = page.locator('.rows').getByRole('slider', { name: 'Send of Repique to Room drums' });
  const box = (await pin.boundingBox())!;
  await page.mouse.move(box.x + 7, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 47, box.y + 10, { steps: 5 });
  await page.mouse.up();
  expect(Number((await send(page, 't5\nroom-drums'))!.level)).toBeGreaterThan(-10);
  await page.getByRole('columnheader', { name: /Press/ }).getByRole('button').click();
  await menu(page, 'Drive: sends +1 dB, return −1 dB');
  await expect(undoLabel(page)).toHaveText('Undo: Drive Press by +1.0 dB');
  await page
    .getByRole('columnheader', { name: /Glow|Echo/ })
    .first()
    .getByRole('button')
    .click();
  await menu(page, 'Hide column');
  await saved(page);
});

test('a shared return is twinned with a preview, in one step, and taken back in one', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await page
    .getByRole('columnheader', { name: /Shed room/ })
    .getByRole('button')
    .click();
  await menu(page, 'Twin into buses…');
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('The sum stays the same: all its inserts are linear.')).toBeVisible();
  await dialog.getByLabel(/VOICES/).uncheck();
  await dialog.getByRole('button', { name: 'Twin', exact: true }).click();
  await expect(page.getByRole('columnheader', { name: /Shed room PANS/ })).toBeVisible();
  await expect(page.getByRole('columnheader', { name: /^reverb Shed room ○? ?−0.5/ })).toBeVisible();
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('columnheader', { name: /Shed room PANS/ })).toHaveCount(0);
});

test('solo is said, cleared and recalled; the rest is silent, or dimmed, and each row says why', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await page.getByRole('button', { name: 'Solo PANS', exact: true }).click();
  await expect(page.locator('[data-row=drums]')).toHaveClass(/silent/);
  await expect(page.locator('[data-row=drums]')).toHaveAttribute('data-hint', 'Silent: PANS is soloed');
  await expect(page.locator('[data-row=t8]')).toHaveAttribute('data-hint', /Heard: PANS is soloed/);
  // With all there is to say above the rows they keep beside the side sheet, in a narrow window too.
  await row(page, 'Tenor pan L').click();
  await row(page, 'Tenor pan R').click({ modifiers: ['Shift'] });
  for (const width of [1024, 1280]) {
    await page.setViewportSize({ width, height: 800 });
    const ends = await page
      .locator('.tools, .tools > *, .scroll')
      .evaluateAll((parts) => Math.max(...parts.map((part) => part.getBoundingClientRect().right)));
    expect(ends).toBeLessThanOrEqual((await page.locator('aside').first().boundingBox())!.x + 0.5);
  }
  await page.getByRole('button', { name: 'rest silent' }).click();
  await expect(page.locator('[data-row=drums]')).toHaveClass(/dimmed/);
  await page.getByRole('button', { name: 'Clear', exact: true }).click();
  await expect(page.locator('[data-row=drums]')).not.toHaveClass(/dimmed/);
  await page.locator('body').press('Shift+S');
  await expect(page.getByRole('button', { name: 'Solo PANS', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.locator('body').press('Shift+S');
  await saved(page);
});

test('a cue begins as the mix stands, is listened to here, and set by its player, who reaches nothing else', async ({ page, context }) => {
  await open(page, 'ferry-shed-halfway');
  await page.getByRole('button', { name: 'New…', exact: true }).click();
  await menu(page, 'Cue…');
  await page.getByRole('dialog').getByLabel('Name').fill('Bassist');
  await page.getByRole('button', { name: 'Make cue' }).click();
  await page
    .getByRole('columnheader', { name: /Bassist/ })
    .getByRole('button')
    .click();
  await menu(page, 'The player’s page…');
  await page.getByRole('button', { name: 'Open it to the player' }).click();
  const address = (await page.locator('.address').textContent())!;
  await page.keyboard.press('Escape');
  await saved(page);
  const cue = await page.evaluate(() => [...window.isotaxis.store.session.channel.values()].find(({ kind }) => kind === 'cue')!.id);

  const phone = await context.newPage();
  await phone.setViewportSize({ width: 390, height: 780 });
  await phone.goto(address);
  await expect(phone.getByRole('heading', { name: 'Bassist' })).toBeVisible();
  await phone.getByLabel('Bass pan in your headphones').fill('0.9');
  await expect.poll(async () => Number((await send(page, `t8\n${cue}`))!.level)).toBeGreaterThan(3);
  // And the other way: what the engineer sets is seen on the phone.
  await page.evaluate((target) => window.isotaxis.store.act([{ do: 'sends.set', sends: [{ source: 't8', target, level: -40 }] }]), cue);
  await expect(phone.locator('li', { hasText: 'Bass pan' }).locator('.num')).toHaveText('−40.0');
  const token = address.split('/').pop()!;
  const post = (body: unknown) => fetch(`${server.url}/api/cue/${token}`, { method: 'POST', body: JSON.stringify(body) });
  expect((await post({ sends: [{ source: 'mix', level: 0 }] })).status).toBe(404);
  expect((await post({ sends: [{ source: 't8', level: 'loud' }] })).status).toBe(422);
  expect((await fetch(`${server.url}/api/cue/${'x'.repeat(40)}`)).status).toBe(404);
  expect(await grave(phone, 'body')).toEqual([]);

  // Listening: the cue in mono is the same on both sides.
  await page.getByLabel('Listen to').selectOption({ label: 'Bassist' });
  await page.getByRole('button', { name: 'Mono', exact: true }).click();
  await page.evaluate(() => window.isotaxis.transport.locate(20 * 48000));
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  const heard = await page.evaluate(async () => {
    await new Promise((resolve) => setTimeout(resolve, 500));
    const { left, right } = await window.isotaxis.transport.capture(9600);
    return { same: left.every((x, i) => x === right[i]), peak: Math.max(...left) };
  });
  expect(heard.same).toBe(true);
  expect(heard.peak).toBeGreaterThan(0.001);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();

  await page.evaluate((id) => window.isotaxis.store.act([{ do: 'cues.unshare', ids: [id] }]), cue);
  await expect(phone.getByText('This page was closed.')).toBeVisible();
  expect((await post({ level: 0 })).status).toBe(404);
});

test('a key track follows pulses, a MIDI file, or the onsets of a track', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await page.getByRole('button', { name: 'New…', exact: true }).click();
  await menu(page, 'Key track…');
  await page.keyboard.type('Duck');
  await page.keyboard.press('Enter');
  const pattern = () =>
    page.evaluate(() => [...window.isotaxis.store.session.channel.values()].find(({ kind }) => kind === 'key')!.pattern);
  expect((await pattern())!.of).toBe('pulse');
  await page.getByLabel('Note value').selectOption({ label: '1/8' });
  expect(await pattern()).toMatchObject({ every: 0.5 });
  await page.getByLabel('Pattern').selectOption({ label: 'Surdo low' });
  await expect.poll(async () => (await pattern())!.of).toBe('onsets');
  const at = ((await pattern()) as unknown as { at: number[] }).at;
  // A surdo struck on the beats of 48 s at 104 BPM: about one or two strokes a second.
  expect(at.length).toBeGreaterThan(30);
  expect(at.length).toBeLessThan(140);
  const midi = [
    0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96, 0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, 12, 0, 0x90, 60, 100, 96, 0x90, 62, 90, 0, 0xff,
    0x2f, 0
  ];
  await page.getByLabel('MIDI file').setInputFiles({ name: 'beat.mid', mimeType: 'audio/midi', buffer: Buffer.from(midi) });
  await expect.poll(pattern).toMatchObject({ of: 'notes', file: 'beat.mid', at: [0, 1] });
  await page.getByLabel('MIDI file').setInputFiles({ name: 'no.mid', mimeType: 'audio/midi', buffer: Buffer.from('not at all') });
  await expect(page.getByText('no.mid: This is not a MIDI file')).toBeVisible();
  await saved(page);
});

test('the Map shows the flow, traces it, folds and re-routes, and goes out as SVG, GraphML and DOT', async ({ page }) => {
  await open(page, 'ferry-shed-finished', 'map');
  const node = (id: string) => page.locator(`[data-node="${id}"]`);
  await node('t22').click();
  await expect(page.getByLabel('Trace', { exact: true })).toContainText('Lead voice → Outputs 1–2');
  await expect(page.getByLabel('Trace', { exact: true })).toContainText('5 paths');
  const told = await (await fetch(`${server.url}/api/sessions/ferry-shed-finished/trace?from=t22`)).json();
  expect(told.paths).toHaveLength(5);
  // All of the finished demo is there, in the window, with names of 11 px at least; cues when they are asked for.
  const { nodes, least } = await page.evaluate(() => {
    const texts = [...document.querySelectorAll<SVGTextElement>('.node text')];
    const scale =
      document.querySelector('.paper svg')!.getBoundingClientRect().width /
      Number(document.querySelector('.paper svg')!.getAttribute('width'));
    return {
      nodes: document.querySelectorAll('[data-node]').length,
      least: Math.min(...texts.map((text) => parseFloat(getComputedStyle(text).fontSize) * scale).filter(Boolean))
    };
  });
  expect(nodes).toBe(46);
  expect(least).toBeGreaterThanOrEqual(11);
  await expect(node('cue-1')).toHaveCount(0);
  // Sends run in strands until one comes near: then each is drawn by itself.
  await expect(page.locator('.river.send')).not.toHaveCount(0);
  await page.keyboard.press('Escape');
  await page.locator('.paper').click({ position: { x: 700, y: 620 } });
  await expect(page.locator('.river.send')).toHaveCount(0);
  await node('room-pans')
    .or(page.locator('[data-node]', { hasText: 'Room pans' }))
    .first()
    .hover();
  await expect.poll(() => page.locator('.river.send').count()).toBeGreaterThan(0);
  // A family folds at its mark, and unfolds by a click on it, staying where it is.
  const place = async () => (await node('drums').locator('.box').boundingBox())!.x;
  const before = await place();
  await node('drums').locator('.fold').click();
  await expect(node('t2')).toHaveCount(0);
  await node('drums').click();
  await expect(node('t2')).toHaveCount(1);
  expect(Math.abs((await place()) - before)).toBeLessThan(2);
  // In a low window families are folded; one that is unfolded stays where it is, whatever is changed afterwards.
  await page.setViewportSize({ width: 1280, height: 520 });
  await page.reload();
  const folded = page.locator('[data-node][aria-label$=" folded"]').last();
  const id = (await folded.getAttribute('data-node'))!;
  await folded.click();
  await expect(node(id)).not.toHaveAttribute('aria-label', /folded/);
  const height = async () => (await node(id).locator('.box').boundingBox())!.y;
  await page.waitForTimeout(300);
  const there = await height();
  await page.evaluate(() =>
    (window as never as { isotaxis: { store: { act: (c: object[]) => void } } }).isotaxis.store.act([
      { do: 'faders.set', levels: [{ id: 't1', level: -7 }] }
    ])
  );
  await page.waitForTimeout(500);
  expect(Math.abs((await height()) - there)).toBeLessThan(2);
  await page.keyboard.press('Control+z');
  await page.setViewportSize({ width: 1280, height: 720 });
  await page.reload();
  await node('lead').waitFor();
  // The end of a river is dragged to another bus.
  await page.locator('[data-end=lead]').hover();
  await page.mouse.down();
  await node('brass').locator('.box').hover();
  await page.mouse.up();
  await expect(undoLabel(page)).toHaveText('Undo: Route LEAD to BRASS');
  await page.keyboard.press('Control+z');
  for (const [format, sign] of [
    ['SVG', '<svg xmlns'],
    ['GraphML', '<graphml'],
    ['DOT', 'digraph']
  ]) {
    const downloading = page.waitForEvent('download');
    await page.getByRole('link', { name: format, exact: true }).click();
    expect(readFileSync(await (await downloading).path(), 'utf8')).toContain(sign);
  }
  // An independent reader of SVG: the browser.
  const width = await page.evaluate(async (src) => {
    const image = new Image();
    image.src = src;
    await image.decode();
    return image.naturalWidth;
  }, `${server.url}/api/sessions/ferry-shed-finished/flow?format=svg`);
  expect(width).toBeGreaterThan(800);
});

// The thinnest slice as its user walks it: files in, a bus, a send, heard, set, printed, and still there after a crash.
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { createEngine, type Pcm } from '../../core/engine/engine';
import { renderMix } from '../oracle/mix';
import { decode, encode, planar } from '../../core/formats/pcm';
import { readWavHeader, wavHeader } from '../../core/formats/wav';
import { decodeSession, type SessionDocument } from '../../core/session/tables';
import type { Desk } from '../../src/lib/state/desk';
import { module, noise } from '../oracle/rig';
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

const open = async (page: Page, session: string) => {
  await page.goto(`${server.url}/s/${session}/ledger`);
  await page.locator('[data-row]').first().waitFor();
};
const row = (page: Page, name: string) => page.getByRole('button', { name, exact: true });
const saved = (page: Page) => expect(page.locator('.saving')).toHaveText('Saved');
const documentOf = async (session: string) =>
  (await (await fetch(`${server.url}/api/sessions/${session}`)).json()) as { document: SessionDocument; revision: number };

/** The store's recordings, read the way the page reads them. */
async function recordingsOf(document: SessionDocument): Promise<Pcm> {
  const sides = new Map<string, Float32Array[]>();
  for (const { id, frames, encoding, channels } of document.media as unknown as {
    id: string;
    frames: number;
    encoding: 's24' | 'f32';
    channels: number;
  }[]) {
    const own = Array.from({ length: channels }, () => new Float32Array(frames));
    const most = 1 << 18;
    for (let from = 0; from < frames; from += most) {
      const bytes = new Uint8Array(await (await fetch(`${server.url}/api/pcm?media=${id}&from=${from}&frames=${most}`)).arrayBuffer());
      const head = 4 + new DataView(bytes.buffer).getUint32(0, true);
      const [part] = JSON.parse(new TextDecoder().decode(bytes.subarray(4, head))) as { bytes: number }[];
      own.forEach((side, i) =>
        decode(bytes.subarray(head + i * part.bytes, head + (i + 1) * part.bytes), encoding, side.subarray(from, from + most))
      );
    }
    sides.set(id, own);
  }
  return (mediaId, channel, from, into) => into.set(sides.get(mediaId)![channel].subarray(from, from + into.length));
}

test('a bus from a selection, a return with sends at −∞, a typed level, undo and redo by name, and all of it after a reload', async ({
  page
}) => {
  await open(page, 'ferry-shed');
  await expect(page.getByText('25 channels')).toBeVisible();
  await row(page, 'AUD_0003_surdo').click();
  await row(page, 'shk2_OK').click({ modifiers: ['Shift'] });
  await page.keyboard.press('b');
  await page.keyboard.type('HAND DRUMS');
  await page.keyboard.press('Enter');
  const bus = page.locator('[data-row]', { has: row(page, 'HAND DRUMS') });
  await expect(bus).toHaveAttribute('aria-level', '2');
  await expect(page.locator('[data-row]', { has: row(page, 'shk1') })).toHaveAttribute('aria-level', '3');

  await row(page, 'pan tenor L (2)').click();
  await row(page, 'pan tenor R (2)').click({ modifiers: ['Control'] });
  await page.keyboard.press('e');
  await page.keyboard.type('Shed room');
  await page.keyboard.press('Enter');
  const send = page.getByRole('gridcell', { name: /^Send of pan tenor L \(2\) to Shed room: −/ });
  await expect(send).toHaveText('−∞');
  await send.click();
  await page.keyboard.type('-12.5');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('gridcell', { name: /^Send of pan tenor R \(2\) to Shed room: −/ })).toHaveText('−12.5');
  const undo = page.locator('.undo');
  await expect(undo).toHaveText('Undo: Send 2 channels to Shed room at −12.5 dB');

  await page.keyboard.press('Control+z');
  await expect(send).toHaveText('−∞');
  await expect(undo).toHaveText('Undo: New return Shed room with sends from 2 channels');
  await page.keyboard.press('Shift+Control+z');
  await expect(send).toHaveText('−12.5');
  await saved(page);
  await page.reload();
  await expect(send).toHaveText('−12.5');
  await expect(undo).toHaveText('Undo: Send 2 channels to Shed room at −12.5 dB');

  // A drag is one entry, and moves what is selected by the same difference.
  await row(page, 'TPT1-final').click();
  await row(page, 'TPT2-final2').click({ modifiers: ['Shift'] });
  const pin = page.getByRole('button', { name: 'Fader of TPT1-final', exact: true });
  const box = (await pin.boundingBox())!;
  await page.mouse.move(box.x + 9, box.y + 12);
  await page.mouse.down();
  for (let i = 1; i <= 10; i++) await page.mouse.move(box.x + 9 - i * 10, box.y + 12);
  await page.mouse.up();
  const faders = () =>
    page.evaluate(() =>
      [...window.isotaxis.store.session.channel.values()].filter(({ name }) => name.startsWith('TPT')).map(({ faderDb }) => faderDb)
    );
  const [first, second] = await faders();
  expect(first).toBeLessThan(-6);
  expect(second).toBe(first);
  await expect(undo).toHaveText(/^Undo: Faders of 2 channels by −\d+\.\d dB *$/);
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect.poll(faders).toEqual([0, 0]);

  // What cannot be says why, and changes nothing.
  await row(page, 'HAND DRUMS').click();
  await page.evaluate(() => {
    const { store } = window.isotaxis;
    const [hand] = store.channels.filter(({ name }) => name === 'HAND DRUMS');
    store.act([{ do: 'buses.add', id: 'outer', name: 'OUTER', members: [hand.id] }]);
    store.act([{ do: 'channels.route', ids: ['outer'], to: hand.id }]);
  });
  await expect(page.getByText('This would feed back: OUTER → HAND DRUMS → OUTER.')).toBeVisible();
});

test('what is played is what the engine renders offline, sample for sample, over a loop and with a solo', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await page.getByRole('button', { name: 'Solo VOICES', exact: true }).click();
  await expect(page.locator('[data-row].silent').first()).toBeVisible();
  // Every processor, a key, the input tap, a mono send and one with a pan of its own take part.
  await page.evaluate(() => {
    const { store } = window.isotaxis;
    const named = (name: string) => store.channels.find((channel) => channel.name === name)!.id;
    const [voices, track] = [named('VOICES'), store.channels.find(({ kind, width }) => kind === 'track' && width === 1)!.id];
    const comp = { threshold: -35, ratio: 6, character: 2, detector: 1, keyHigh: 120 };
    store.act([
      { do: 'inserts.add', id: 'x-comp', channelId: voices, type: 'comp' },
      { do: 'inserts.set', id: 'x-comp', values: comp },
      { do: 'inserts.key', id: 'x-comp', source: track, tap: 'input' },
      { do: 'inserts.add', id: 'x-trim', channelId: voices, type: 'trim' },
      { do: 'inserts.set', id: 'x-trim', values: { swap: 1, delay: 33 } },
      { do: 'returns.add', id: 'x-echo', name: 'ECHO', effect: 'none', outputId: voices },
      { do: 'inserts.add', id: 'x-delay', channelId: 'x-echo', type: 'delay' },
      { do: 'inserts.set', id: 'x-delay', values: { mode: 2, 't1.note': 7, feedback: 60 } },
      ...store.channels
        .filter(({ outputId }) => outputId === voices)
        .filter(({ kind }) => kind === 'track')
        .map(({ id }, i) => ({
          do: 'sends.set' as const,
          sends: [
            {
              source: id,
              target: 'x-echo',
              level: -9,
              tap: (['input', 'post', 'pre'] as const)[i % 3],
              mono: i % 2 === 0,
              pan: i % 4 ? -40 : null
            }
          ]
        })),
      { do: 'inserts.add', id: 'x-limiter', channelId: 'mix', type: 'limiter' },
      { do: 'inserts.set', id: 'x-limiter', values: { drive: 12, ceiling: -9 } }
    ]);
  });
  await saved(page);
  const FRAMES = 96000;
  const loop = { from: 1_000_000, to: 1_040_064 };
  const from = 1_020_000;
  const played = await page.evaluate(
    async ({ loop, from, frames }) => {
      const { transport } = window.isotaxis;
      transport.setLoop(loop);
      transport.locate(from);
      const captured = transport.capture(frames);
      await transport.toggle();
      const { left, right } = await captured;
      transport.stop();
      return { left: [...left], right: [...right], underruns: transport.underruns() };
    },
    { loop, from, frames: FRAMES }
  );
  const { document } = await documentOf('ferry-shed-halfway');
  const engine = createEngine({ module, session: decodeSession(document), pcm: await recordingsOf(document), solo: true });
  engine.setLoop(loop);
  engine.locate(from);
  const [left, right] = [new Float32Array(FRAMES), new Float32Array(FRAMES)];
  engine.render(left, right);
  expect(Math.max(...left)).toBeGreaterThan(0.01);
  expect(Float32Array.from(played.left)).toEqual(left);
  expect(Float32Array.from(played.right)).toEqual(right);
  await page.getByRole('button', { name: 'Solo VOICES', exact: true }).click();
  await page.evaluate(() => window.isotaxis.store.act([{ do: 'inserts.remove', id: 'x-limiter' }]));
  await saved(page);
});

test('one hint says what the pointer or the focus rests on, even where nothing can be pressed, and goes with the next key', async ({
  page
}) => {
  await open(page, 'ferry-shed-finished');
  const hint = page.locator('[role=tooltip]');
  const redo = page.getByRole('button', { name: 'Redo' });
  await redo.hover({ force: true });
  await expect(hint).toHaveText('Nothing to redo');
  await expect(redo).toHaveAccessibleDescription('Nothing to redo');
  await page.mouse.move(640, 400);
  await expect(hint).toHaveCount(0);
  await page.getByRole('button', { name: 'Import audio…' }).focus();
  await page.keyboard.press('Tab');
  await expect(hint).toHaveText('With nothing in it yet (b)');
  // What is a mark alone has a name without it.
  await expect(page.locator('[data-row] [role=rowheader]', { hasText: 'Room drums' }).getByRole('img', { name: 'Return' })).toBeVisible();
  const pin = page.locator('[data-row] .pin').first();
  await pin.hover();
  await expect(hint).toHaveText(/Shift for fine/);
  // What lies beneath the words is still pressed.
  await expect(hint).toHaveCSS('pointer-events', 'none');
  await page.keyboard.press('Shift');
  await expect(hint).toHaveCount(0);
});

test('meters and position move while it plays, Space stops, a locate is taken', async ({ page }) => {
  await open(page, 'ferry-shed-halfway');
  await page.keyboard.press('Space');
  await expect.poll(() => page.evaluate(() => window.isotaxis.transport.level('mix')?.peak ?? -200)).toBeGreaterThan(-40);
  await expect(page.locator('.time')).not.toHaveText(/^0:00\.000/);
  await page.evaluate(() => window.isotaxis.transport.locate(48000 * 20));
  await expect(page.locator('.time')).toHaveText(/^0:2\d\./);
  await page.keyboard.press('Space');
  const stopped = await page.evaluate(() => window.isotaxis.transport.position);
  await page.waitForTimeout(300);
  expect(await page.evaluate(() => window.isotaxis.transport.position)).toBe(stopped);
});

test('import takes what it can, and says of the rest what is wrong', async ({ page }) => {
  const wav = (sides: Float32Array[], encoding: 's24' | 'f32' = 's24', rate = 48000) =>
    Buffer.concat([wavHeader({ rate, channels: sides.length, encoding, frames: sides[0].length }), encode(sides, encoding).bytes]);
  const file = (name: string, buffer: Buffer) => ({ name, mimeType: 'audio/wav', buffer });
  const zeroRate = wav([noise(500, 1)]);
  zeroRate.writeUInt32LE(0, 60);
  await open(page, 'ferry-shed');
  const channels = () => page.evaluate(() => window.isotaxis.store.channels.length);
  const before = await channels();
  await page.getByLabel('Audio files to import').setInputFiles([
    file('Melodica.wav', wav([noise(48000, 2)])),
    file('Tape pair.wav', wav([noise(24000, 3), noise(24000, 4)], 'f32')),
    file('cut.wav', wav([noise(9000, 5)]).subarray(0, 9000)),
    file('words.wav', Buffer.from('only words')),
    // The same name from another folder.
    file('words.wav', Buffer.from('other words')),
    file('zero rate.wav', zeroRate),
    file('no frames.wav', wav([new Float32Array(0)])),
    file('nan.wav', wav([Float32Array.of(0.1, NaN)], 'f32')),
    file('cd.wav', wav([noise(500, 6)], 's24', 44100))
  ]);
  await expect(page.getByText('2 of 9 files imported')).toBeVisible();
  const dialog = page.getByRole('dialog');
  for (const words of [
    /file promises 0\.2 s/,
    /not an audio file/,
    /sample rate is 0 Hz/,
    /0 frames/,
    /not a number/,
    /44100 Hz, this session 48000 Hz/
  ])
    await expect(dialog.getByText(words).first()).toBeVisible();
  await expect(page.locator('.undo')).toHaveText('Undo: Import 2 tracks');
  // The one that only has another sample rate is taken after all, when that is asked for.
  await dialog.getByRole('button', { name: 'Convert it to 48 kHz' }).click();
  await expect(dialog).toBeHidden();
  await expect.poll(channels).toBe(before + 3);
  // Its running buttons, one of which had the focus, are gone: keys reach nothing behind it, and Escape leaves it.
  await page.getByLabel('Audio files to import').setInputFiles([file('cd 2.wav', wav([noise(500, 7)], 's24', 44100))]);
  await expect(dialog.getByText('this session 48000 Hz')).toBeVisible();
  await page.keyboard.press('b');
  await expect(page.locator('dialog, .picker, [data-row] input:focus')).toHaveCount(1);
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  for (let i = 0; i < 2; i++) await fetch(`${server.url}/api/sessions`, { method: 'POST', body: JSON.stringify({ name: 'Twice' }) });
  await page.locator('[data-hint="Open another session"]').click();
  await expect(page.getByRole('menuitem', { name: /^Twice/ })).toHaveCount(2);
  await page.keyboard.press('Escape');
  await saved(page);
});

test('the mix prints to a 24-bit file with length and peak, the same samples as the engine, heard in place and downloaded', async ({
  page
}) => {
  await open(page, 'ferry-shed-halfway');
  await page.getByRole('link', { name: 'Prints' }).click();
  await page.getByRole('button', { name: 'Print mix' }).click();
  const link = page.getByRole('link', { name: 'Download' });
  await expect(link).toBeVisible({ timeout: 120_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()]);
  expect(download.suggestedFilename()).toBe('Ferry Shed – half-way - mix.wav');
  const bytes = readFileSync((await download.path())!);
  const header = readWavHeader((at, length) => bytes.subarray(at, at + length), bytes.length);
  if (!header.ok) throw new Error(header.error.message);
  expect(header.value).toMatchObject({ rate: 48000, channels: 2, encoding: 's24' });
  expect(header.value.frames).toBeGreaterThan(48 * 48000 + 24000);

  const { document } = await documentOf('ferry-shed-halfway');
  let at = header.value.dataAt;
  let peak = 0;
  for (const { left, right } of renderMix(module, decodeSession(document), await recordingsOf(document))) {
    const block = encode([left, right], 's24').bytes;
    expect(Buffer.compare(bytes.subarray(at, at + block.length), block)).toBe(0);
    at += block.length;
    for (const side of planar(block, 's24', 2)) {
      const samples = new Float32Array(left.length);
      decode(side, 's24', samples);
      for (const x of samples) peak = Math.max(peak, Math.abs(x));
    }
  }
  expect(at).toBe(bytes.length);
  await expect(page.locator('td.num').first()).toHaveText(`−${Math.abs(20 * Math.log10(peak)).toFixed(1)}`);
  // An independent reader finds the same length and peak.
  const sox = spawnSync('sox', [(await download.path())!, '-n', 'stats'], { encoding: 'utf8' }).stderr;
  expect(Number(/Pk lev dB\s+(\S+)/.exec(sox)![1])).toBeCloseTo(20 * Math.log10(peak), 1);
  await page.getByRole('button', { name: 'Hear Ferry Shed – half-way - mix.wav' }).click();
  const place = page.getByRole('slider', { name: 'Position in Ferry Shed – half-way - mix.wav' });
  await expect.poll(async () => Number(await place.getAttribute('aria-valuenow'))).toBeGreaterThan(0);
});

test('what was acknowledged is there after kill -9, and a second server on the same data is turned away', async ({ page }) => {
  await open(page, 'ferry-shed');
  for (let i = 0; i < 3; i++) {
    await page.evaluate(
      (level) =>
        window.isotaxis.store.act([
          { do: 'faders.set', levels: [{ id: 't8', level }] },
          { do: 'mutes.set', ids: ['t9'], on: level % 2 !== 0 }
        ]),
      -i - 4
    );
    await saved(page);
    await server.kill();
    await server.start();
    const { document } = await documentOf('ferry-shed');
    const channels = document.channel as { id: string; faderDb: number; mute: boolean }[];
    expect(channels.find(({ id }) => id === 't8')!.faderDb).toBe(-i - 4);
    expect(channels.find(({ id }) => id === 't9')!.mute).toBe(i % 2 === 1);
  }
  // A move made while the server is away is kept, shown as unsaved, and saved when it is back.
  await server.kill();
  await page.evaluate(() => window.isotaxis.store.act([{ do: 'faders.set', levels: [{ id: 't8', level: -33 }] }]));
  await expect(page.locator('.saving')).toHaveText(/Not saved/);
  await server.start();
  await expect(page.locator('.saving')).toHaveText('Saved', { timeout: 120_000 });
  const { document } = await documentOf('ferry-shed');
  expect((document.channel as { id: string; faderDb: number }[]).find(({ id }) => id === 't8')!.faderDb).toBe(-33);

  const second = spawnSync('node', ['server.mjs'], {
    env: { ...process.env, ISOTAXIS_DATA: server.directory, PORT: '4999' },
    encoding: 'utf8',
    timeout: 120_000
  });
  expect(second.status).toBe(1);
  expect(second.stderr).toContain('Another Isotaxis');
  expect(second.stderr).toContain('ISOTAXIS_DATA');
});

test('requests from other sites and malformed ones are refused with words', async () => {
  const post = (path: string, body: string, headers: Record<string, string> = {}) =>
    fetch(server.url + path, { method: 'POST', body, headers });
  const mute = JSON.stringify({ base: 0, id: 'evil', commands: [{ do: 'mutes.set', ids: ['t1'], on: true }] });
  expect((await post('/api/sessions/ferry-shed/commands', mute, { Origin: 'http://elsewhere.example' })).status).toBe(403);
  const local = server.url.replace('127.0.0.1', 'localhost');
  expect((await post('/api/sessions/ferry-shed/commands', '{', { Origin: local })).status).toBe(403);
  const asked = spawnSync('curl', ['-s', '-o', '/dev/null', '-w', '%{http_code}', '-H', 'Host: elsewhere.example', server.url], {
    encoding: 'utf8'
  });
  expect(asked.stdout).toBe('403');
  const byName = spawnSync(
    'curl',
    ['-s', '-X', 'POST', '-d', '{', '-H', `Host: ${new URL(local).host}`, '-H', `Origin: ${local}`, `${server.url}/api/sessions`],
    { encoding: 'utf8' }
  );
  expect(byName.stdout).toContain('not a JSON object');
  for (const [body, words] of [
    ['{', 'not a JSON object'],
    ['{"base":0,"id":"x"}', 'A batch holds commands'],
    ['{"base":0,"id":"x","commands":[{"do":"faders.set"}]}', 'levels'],
    ['{"base":0,"id":"x","commands":[5]}', 'A command says what it does']
  ]) {
    const answer = await post('/api/sessions/ferry-shed/commands', body);
    expect(answer.status).toBe(422);
    expect(((await answer.json()) as { error: { message: string } }).error.message).toContain(words);
  }
  expect((await post('/api/sessions/gone/commands', mute)).status).toBe(404);
  expect((await fetch(`${server.url}/api/pcm?media=${'0'.repeat(64)}&from=-1&frames=10`)).status).toBe(422);
  // More recordings at once than an address could name.
  const many = Array.from({ length: 1000 }, (_, i) => i.toString(16).padStart(64, '0'));
  const batch = (body: object) => fetch(`${server.url}/api/pcm`, { method: 'POST', body: JSON.stringify(body) });
  expect((await batch({ media: many, from: 0, frames: 8192 })).status).toBe(200);
  expect((await batch({ media: [...many, ...many, 'x'], from: 0, frames: 0 })).status).toBe(422);
});

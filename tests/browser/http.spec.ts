// The server over HTTP, asked in ways that no page of ours would: readers who leave early, other sites, paths that lead elsewhere,
// too much at once, half of something; other processes on the same data. It goes on for everybody else.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, test, type Page, type Response as PageAnswer } from '@playwright/test';
import { freePort, started } from '../../scripts/started.mjs';
import { zip } from './zip';
import { demoDirectory, startServer, type TestServer } from './server';

let server: TestServer;
test.beforeAll(async () => {
  server = await startServer();
});
/** Other servers that a test has started: none outlives the tests, however they end. */
const beside: (() => void)[] = [];
test.afterAll(async () => {
  for (const end of beside) end();
  await server.remove();
});

const DEMO = '/api/sessions/ferry-shed-finished';
let batches = 0;
const fader = (level: number) => ({ base: 0, id: `b${++batches}`, commands: [{ do: 'faders.set', levels: [{ id: 't1', level }] }] });
const post = (where: string, body: unknown, init: RequestInit = {}) =>
  fetch(server.url + where, { method: 'POST', body: typeof body === 'string' ? body : JSON.stringify(body), ...init });
const codeOf = async (response: Response) => {
  const { error } = (await response.json()) as { error: { code: string; message: string } };
  expect(error.message).toMatch(/\w.*\.$/);
  return `${response.status} ${error.code}`;
};

test('a stream that is closed at any moment harms no batch; one of another site is not opened', async () => {
  const streams = Array.from({ length: 12 }, async (_, i) => {
    const leave = new AbortController();
    const reply = fetch(`${server.url}${DEMO}/events?since=0`, { signal: leave.signal }).catch(() => null);
    await new Promise((resolve) => setTimeout(resolve, i * 2));
    leave.abort();
    await reply;
  });
  const moves = Array.from({ length: 12 }, async (_, i) => {
    const done = await post(`${DEMO}/commands`, fader(-i));
    expect(done.status).toBe(200);
  });
  await Promise.all([...streams, ...moves]);
  expect((await post(`${DEMO}/commands`, fader(-40))).status).toBe(200);
  for (const where of [`${DEMO}/events?since=0`, '/api/sessions', `${DEMO}/package`])
    for (const headers of [{ 'Sec-Fetch-Site': 'cross-site' }, { Origin: 'https://elsewhere.example' }] as Record<string, string>[])
      expect(await codeOf(await fetch(server.url + where, { headers }))).toBe('403 elsewhere');
});

test('whatever is not there, or not like that, is answered in JSON with a code; ids lead to nothing but what they name', async () => {
  const bait = path.join(server.directory, 'keep.wav');
  writeFileSync(bait, 'a recording');
  const paths: [string, string, string][] = [
    ['DELETE', '/api/prints/..%2Fkeep', '404 not-found'],
    ['DELETE', '/api/prints/no-such-print', '404 not-found'],
    ['DELETE', '/api/prints/no-such-print?cancel', '404 not-found'],
    ['GET', '/api/prints/%2e%2e', '404 not-found'],
    ['GET', '/api/sessions/%00', '404 not-found'],
    ['GET', '/api/sessions/nobody/prints', '404 no-session'],
    ['GET', '/api/nothing', '404 not-found'],
    ['GET', '/api/%E0%A4%A', '404 not-found'],
    ['PATCH', '/api/sessions', '405 no-method'],
    ['GET', '/api/cue/a-token-that-was-never-given', '404 closed'],
    ['GET', `${DEMO}/events?since=x`, '422 bad-request']
  ];
  for (const [method, where, code] of paths)
    expect(await codeOf(await fetch(server.url + where, { method })), `${method} ${where}`).toBe(code);
  expect(existsSync(bait)).toBe(true);
  const page = await fetch(`${server.url}/s/ferry-shed/ledger`);
  expect(page.headers.get('content-security-policy')).toContain("frame-ancestors 'none'");
  expect((await fetch(`${server.url}/third-party-notices.txt`)).status).toBe(200);
});

test('too much at once has its own answer, and half of something is not waited for by anybody else', async () => {
  expect(await codeOf(await post(`${DEMO}/sheet`, 'x'.repeat(9_000_000)))).toBe('413 too-large');
  expect(await codeOf(await post('/api/rules', 'x'.repeat(5_000_000), { method: 'PUT' }))).toBe('413 too-large');
  const { document } = (await (await fetch(server.url + DEMO)).json()) as { document: { media: { sha256: string }[] } };
  const shas = document.media.map(({ sha256 }) => sha256);
  const once = await post('/api/pcm', { media: shas.slice(0, 1), from: 0, frames: 1000 });
  const often = await post('/api/pcm', { media: Array(250).fill(shas[0]), from: 0, frames: 1000 });
  expect((await often.arrayBuffer()).byteLength).toBe((await once.arrayBuffer()).byteLength);
  // One print runs and fifty wait; of what is asked for at once the rest is told to come later.
  const prints = await Promise.all(Array.from({ length: 56 }, () => post(`${DEMO}/prints`, {})));
  const taken = prints.filter(({ status }) => status === 201);
  expect([50, 51]).toContain(taken.length);
  expect(prints.filter(({ status }) => status === 409)).toHaveLength(56 - taken.length);
  const ids = await Promise.all(taken.map(async (each) => ((await each.json()) as { id: string }).id));
  for (const id of ids.reverse()) await fetch(`${server.url}/api/prints/${id}`, { method: 'DELETE' });
  expect(await (await fetch(`${server.url}${DEMO}/prints`)).json()).toEqual({ prints: [] });

  const { port } = new URL(server.url);
  const half = connect(Number(port), '127.0.0.1');
  half.write(`PUT ${DEMO}/media?name=x.wav HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: 1000\r\n\r\nRIFF`);
  expect((await post(`${DEMO}/commands`, fader(-3))).status).toBe(200);
  half.destroy();

  // Some MB of ZIP that unfold to far more JSON than any session has.
  const bomb = zip('session.json', Buffer.concat([Buffer.from('{"format":"'), Buffer.alloc(100_000_000, 'x'), Buffer.from('"}')]));
  const answers = await Promise.all([post('/api/packages', '', { body: new Uint8Array(bomb) }), fetch(`${server.url}/api/sessions`)]);
  expect(await codeOf(answers[0])).toBe('413 too-large');
  expect(answers[1].status).toBe(200);
});

test('a pattern that repeats without end is answered like any other', async () => {
  const { book } = (await (await fetch(`${server.url}/api/rules`)).json()) as { book: { rules: object[] } };
  const rules = { ...book, rules: [{ ...book.rules[0], words: '/((a+))+$/' }, ...book.rules.slice(1)] };
  expect((await post('/api/rules', rules, { method: 'PUT' })).status).toBe(200);
  expect((await post(`${DEMO}/sort`, { preview: true })).status).toBe(200);
  expect((await fetch(`${server.url}/api/rules`, { method: 'DELETE' })).status).toBe(200);
});

/** Starts another server on a data directory and gives what it says until it ends, or listens. */
const startBeside = (directory: string, before: string[] = [], env: Record<string, string> = {}) => {
  const [program, ...args] = [...before, 'node', 'server.mjs'];
  const child = started(program, args, {
    env: { ...process.env, ISOTAXIS_DATA: directory, PORT: '0', LOG_LEVEL: 'silent', ...env },
    detached: true
  });
  let said = '';
  const end = () => {
    if (child.pid && child.exitCode === null && child.signalCode === null) process.kill(-child.pid, 'SIGKILL');
  };
  beside.push(end);
  const ended = new Promise<string>((resolve) => {
    const hear = (text: Buffer) => {
      said += text.toString();
      if (said.includes('Isotaxis is at')) resolve(said);
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.on('exit', () => resolve(said));
  });
  return { ended, end, child };
};

test('a second process is refused, in the same PID namespace and in another; a kill is made up for at once', async () => {
  const same = startBeside(server.directory);
  expect(await same.ended).toContain('Another Isotaxis');
  const possible = spawnSync('unshare', ['--pid', '--fork', 'true']).status === 0;
  expect(possible, 'unshare --pid needs to be allowed where the tests run').toBe(true);
  const apart = startBeside(server.directory, ['unshare', '--pid', '--fork']);
  expect(await apart.ended).toContain('Another Isotaxis');
  await server.kill();
  await server.start();
});

test('IPv6 names, a damaged database and a data directory that goes are told in words', async () => {
  const fresh = await demoDirectory();
  const refused = startBeside(fresh, [], { HOST: '::' });
  expect(await refused.ended).toContain('ISOTAXIS_PASSPHRASE');
  const broken = mkdtempSync(path.join(tmpdir(), 'isotaxis-http-'));
  spawnSync('cp', ['-r', path.join(server.directory, 'database'), broken]);
  const base = path.join(broken, 'database', 'base');
  for (const folder of readdirSync(base))
    for (const file of readdirSync(path.join(base, folder))) truncateSync(path.join(base, folder, file), 3);
  const damaged = startBeside(broken);
  expect(await damaged.ended).toMatch(/database in .*database cannot be opened: it is damaged/);
  const port = String(await freePort());
  const loop = startBeside(fresh, [], { HOST: '::1', PORT: port });
  expect(await loop.ended).toContain(`Isotaxis is at http://[::1]:${port}`);
  expect((await fetch(`http://[::1]:${port}/api/sessions`)).status).toBe(200);
  const gone = new Promise((resolve) => loop.child.once('exit', resolve));
  rmSync(fresh, { recursive: true, force: true });
  expect(await gone).toBe(1);
  for (const each of [refused, damaged]) expect(each.child.exitCode).toBe(1);
  rmSync(broken, { recursive: true });
});

/** A proxy takes no more than a page of memory; and what the page needs soon it is told all the same. */
async function headersFit(page: Page, answer: PageAnswer) {
  const length = (await answer.headersArray()).reduce((sum, { name, value }) => sum + name.length + value.length + 4, 0);
  expect(length).toBeLessThan(2048);
  expect(await page.locator('link[rel=modulepreload]').count()).toBeGreaterThan(3);
}

test('an address that is none of ours is a page of our own', async ({ page }) => {
  for (const address of ['/nothing', '/s/ferry-shed/nothing', '/a/b/c']) {
    const answer = await page.goto(`${server.url}${address}`);
    expect(answer?.status()).toBe(404);
    await expect(page.getByRole('heading')).toHaveText('This is not here');
    await expect(page.getByText('There is nothing at this address.')).toBeVisible();
    await headersFit(page, answer!);
  }
});

test('a first start that was killed while the demo was made was made up for by the next', async () => {
  // `server.ts` kills it so, once for all tests.
  const { sessions } = (await (await fetch(`${server.url}/api/sessions`)).json()) as { sessions: { channels: number }[] };
  expect(sessions.map(({ channels }) => channels)).toEqual([46, 29, 24]);
});

test('beyond this machine each login has a cookie of its own, which can be ended', async ({ page }) => {
  const fresh = await demoDirectory();
  const port = String(await freePort());
  const guarded = startBeside(fresh, [], { HOST: '0.0.0.0', PORT: port, ISOTAXIS_PASSPHRASE: 'steel pans at midnight' });
  await guarded.ended;
  const url = `http://127.0.0.1:${port}`;
  const enter = async (passphrase: string) => {
    const reply = await fetch(`${url}/enter`, { method: 'POST', body: new URLSearchParams({ passphrase }), redirect: 'manual' });
    return { status: reply.status, cookie: reply.headers.get('set-cookie')?.split(';')[0] ?? '' };
  };
  const [one, two] = [await enter('steel pans at midnight'), await enter('steel pans at midnight')];
  expect([one.status, two.status, one.cookie === two.cookie]).toEqual([303, 303, false]);
  const status = async (cookie: string) => (await fetch(`${url}/api/sessions`, { headers: { cookie } })).status;
  expect([await status(one.cookie), await status(two.cookie), await status('')]).toEqual([200, 200, 401]);
  expect((await fetch(`${url}/enter`, { method: 'DELETE', headers: { cookie: one.cookie } })).status).toBe(204);
  expect([await status(one.cookie), await status(two.cookie)]).toEqual([401, 200]);
  // As people do it: a browser adds an origin to a form, and takes the way out from the front page.
  await page.goto(`${url}/s/ferry-shed/roster`);
  for (const typed of ['not this one', 'steel pans at midnight']) {
    await page.getByLabel('Passphrase').fill(typed);
    await page.getByRole('button', { name: 'Enter' }).click();
    if (typed.startsWith('not')) await expect(page.getByRole('alert')).toHaveText('That is not the passphrase.');
  }
  await page.getByRole('button', { name: 'End this login' }).click();
  await expect(page.getByLabel('Passphrase')).toBeVisible();
  expect((await page.request.get(`${url}/api/sessions`)).status()).toBe(401);
  const long = await fetch(`${url}/enter`, { method: 'POST', body: `passphrase=${'x'.repeat(200_000)}` });
  expect(long.status).toBe(413);
  for (let i = 0; i < 5; i++) expect((await enter('no')).status).toBe(403);
  expect((await enter('steel pans at midnight')).status).toBe(303);
  guarded.end();
  rmSync(fresh, { recursive: true, force: true });
});

test('over plain HTTP from elsewhere all works but playback, and why is said', async ({ page }) => {
  const fresh = await demoDirectory();
  const port = String(await freePort());
  const named = { ISOTAXIS_NAMES: 'studio.test', PORT: port };
  expect(await startBeside(fresh, [], named).ended).toContain('Set ISOTAXIS_PASSPHRASE');
  const guarded = startBeside(fresh, [], { ...named, ISOTAXIS_PASSPHRASE: 'steel pans at midnight' });
  await guarded.ended;
  const faults: string[] = [];
  page.on('pageerror', (error) => faults.push(String(error)));
  await page.goto(`http://studio.test:${port}/`);
  await page.getByLabel('Passphrase').fill('steel pans at midnight');
  await page.getByRole('button', { name: 'Enter' }).click();
  await expect(page.locator('[data-session]').first()).toBeVisible();
  expect(await page.evaluate(() => [isSecureContext, typeof crypto.randomUUID, typeof navigator.locks])).toEqual([
    false,
    'undefined',
    'undefined'
  ]);
  for (const view of ['roster', 'map', 'links', 'timeline', 'prints', 'ledger']) {
    const answer = await page.goto(`http://studio.test:${port}/s/ferry-shed-finished/${view}`);
    await headersFit(page, answer!);
    await expect(page.getByRole('button', { name: 'No playback…' })).toBeVisible();
  }
  const act = () =>
    page.evaluate(() =>
      (window as never as { isotaxis: { store: { act: (c: object[]) => void } } }).isotaxis.store.act([
        { do: 'settings.set', name: 'From the next room' }
      ])
    );
  // What was not sent when the page went is adopted by the next.
  await page.route('**/commands', (route) => route.abort());
  await act();
  await expect(page.locator('.saving')).toContainText('Not saved');
  await page.unroute('**/commands');
  page.on('dialog', (dialog) => void dialog.accept());
  await page.reload();
  await expect(page.locator('.saving')).toHaveText('Saved');
  await expect(page.getByRole('button', { name: /^Undo: Rename session/ })).toBeVisible();
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByText('Nothing is played on this page.')).toBeVisible();
  await page.getByRole('button', { name: 'No playback…' }).click();
  await expect(page.getByRole('dialog', { name: 'Nothing is played here' })).toContainText('plain http');
  expect(faults).toEqual([]);
  guarded.end();
  rmSync(fresh, { recursive: true, force: true });
});

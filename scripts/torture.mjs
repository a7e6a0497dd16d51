// npm run torture [-- --rounds N]: kills the server with SIGKILL at random moments of uploads, commands and prints, and looks
// after each restart whether all that was acknowledged is there and nothing half is listed; then a full disk (a small tmpfs,
// where it may be mounted), and a lock left behind. Loopback only; ends by itself.
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, readlinkSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { freePort, started } from './started.mjs';

const rounds = Number(process.argv[process.argv.indexOf('--rounds') + 1]) || 50;
const PORT = await freePort();
const url = `http://127.0.0.1:${PORT}`;
let seed = 20261123;
const next = (below) => (seed = (Math.imul(seed, 48271) >>> 0) % 2147483647) % below;
const sleep = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const fail = (message) => {
  throw new Error(message);
};

let child = null;
async function start(directory) {
  const began = Date.now();
  child = started('node', ['server.mjs'], {
    env: { ...process.env, ISOTAXIS_DATA: directory, PORT: String(PORT), LOG_LEVEL: 'silent' },
    stdio: ['ignore', 'pipe', 'pipe']
  });
  const mine = child;
  let said = '';
  mine.stderr.on('data', (text) => (said += text));
  await new Promise((resolve, reject) => {
    mine.stdout.on('data', (text) => String(text).includes('Isotaxis is at') && resolve());
    mine.on('exit', (code) => reject(new Error(`The server ended with ${code}: ${said}`)));
  });
  return (Date.now() - began) / 1000;
}
async function kill(signal = 'SIGKILL') {
  const ended = new Promise((resolve) => child.once('exit', resolve));
  child.kill(signal);
  await ended;
}

/** Asks; null where the server went away before it answered. */
async function ask(method, where, body, headers = {}) {
  try {
    const response = await fetch(url + where, { method, body, headers, duplex: 'half' });
    const text = await response.text();
    return { status: response.status, body: text ? JSON.parse(text) : null };
  } catch {
    return null;
  }
}
const json = (method, where, body) => ask(method, where, JSON.stringify(body), { 'Content-Type': 'application/json' });

/** A 24-bit mono WAV of noise, different for each number. */
function wav(number, frames) {
  const data = Buffer.alloc(frames * 3);
  for (let i = 0; i < data.length; i++) data[i] = (Math.imul(i + 1, 2654435761 + number * 97) >>> 24) & (i % 3 === 2 ? 0x0f : 0xff);
  const head = Buffer.alloc(44);
  head.write('RIFF', 0);
  head.writeUInt32LE(36 + data.length, 4);
  head.write('WAVEfmt ', 8);
  head.writeUInt32LE(16, 16);
  head.writeUInt16LE(1, 20);
  head.writeUInt16LE(1, 22);
  head.writeUInt32LE(48000, 24);
  head.writeUInt32LE(144000, 28);
  head.writeUInt16LE(3, 32);
  head.writeUInt16LE(24, 34);
  head.write('data', 36);
  head.writeUInt32LE(data.length, 40);
  return Buffer.concat([head, data]);
}

/** What was acknowledged: levels by channel, tracks, prints. */
const told = { levels: new Map(), tracks: new Map(), prints: new Set() };
let session = '';
let serial = 0;

async function commands(count) {
  for (let i = 0; i < count; i++) {
    const ids = [...told.tracks.keys()];
    if (ids.length === 0) return;
    const id = ids[next(ids.length)];
    const level = -next(600) / 10;
    const sent = { id, level };
    const pending = { ...sent };
    told.levels.get(id).maybe = pending.level;
    const answer = await json('POST', `/api/sessions/${session}/commands`, {
      base: 0,
      id: `c${++serial}`,
      commands: [{ do: 'faders.set', levels: [sent] }]
    });
    if (!answer) return;
    if (answer.status !== 200) fail(`A fader move was answered with ${answer.status}: ${JSON.stringify(answer.body)}`);
    told.levels.set(id, { sure: level, maybe: level });
  }
}
async function upload() {
  const number = ++serial;
  const bytes = wav(number, 48000 + next(400000));
  const answer = await ask('PUT', `/api/sessions/${session}/media?name=take%20${number}.wav`, bytes, {
    'Content-Type': 'application/octet-stream'
  });
  if (!answer) return;
  if (answer.status !== 201) fail(`An upload was answered with ${answer.status}: ${JSON.stringify(answer.body)}`);
  const sha = createHash('sha256').update(bytes).digest('hex');
  if (answer.body.sha256 !== sha) fail('An upload was acknowledged with another hash.');
  const { timeReference, ...media } = answer.body;
  const id = `t${number}`;
  const added = await json('POST', `/api/sessions/${session}/commands`, {
    base: 0,
    id: `i${number}`,
    commands: [{ do: 'tracks.add', tracks: [{ id, name: `Take ${number}`, media, timeReference }] }]
  });
  if (added?.status === 200) {
    told.tracks.set(id, sha);
    told.levels.set(id, { sure: 0, maybe: 0 });
  }
}
async function print() {
  if (told.tracks.size === 0) return;
  const started = await json('POST', `/api/sessions/${session}/prints`, { format: 'wav32f' });
  if (!started || started.status !== 201) return;
  for (let i = 0; i < 100; i++) {
    await sleep(30);
    const list = await ask('GET', `/api/sessions/${session}/prints`);
    if (!list) return;
    const mine = list.body.prints.find(({ id }) => id === started.body.id);
    if (mine?.status === 'done') told.prints.add(mine.id);
    if (mine?.status !== 'running') return;
  }
}

async function inspect(directory) {
  const { body } = (await ask('GET', `/api/sessions/${session}`)) ?? fail('The server does not answer after its start.');
  const channels = new Map(body.document.channel.map((row) => [row.id, row]));
  for (const [id, { sure, maybe }] of told.levels) {
    const level = channels.get(id)?.faderDb ?? fail(`Track ${id} was acknowledged and is gone.`);
    if (level !== sure && level !== maybe) fail(`Track ${id} stands at ${level}, ${sure} was acknowledged.`);
    told.levels.set(id, { sure: level, maybe: level });
  }
  for (const row of body.document.media) {
    const file = path.join(directory, 'media', row.sha256.slice(0, 2), `${row.sha256}.wav`);
    if (!existsSync(file)) fail(`The recording of ${row.name} is listed and not there.`);
    const hash = createHash('sha256')
      .update((await import('node:fs')).readFileSync(file))
      .digest('hex');
    if (hash !== row.sha256) fail(`The recording of ${row.name} is not whole.`);
    if (!existsSync(path.join(directory, 'peaks', `${row.sha256}.peaks`))) fail(`The peaks of ${row.name} are missing.`);
  }
  if (readdirSync(path.join(directory, 'incoming')).length) fail('Something half is left among what comes in.');
  const prints = (await ask('GET', `/api/sessions/${session}/prints`)).body.prints;
  for (const id of told.prints)
    if (prints.find((each) => each.id === id)?.status !== 'done') fail(`Print ${id} was done and is no longer.`);
  for (const { id, status, files } of prints) {
    const whole = files.every(({ name, bytes }) => {
      const file = path.join(directory, 'prints', id, name);
      return existsSync(file) && statSync(file).size === bytes;
    });
    if (status === 'running') fail('A print is said to be running after a restart.');
    if (status === 'done' && !(files.length && whole)) fail(`Print ${id} is listed as done and has no file.`);
  }
  const done = new Set(prints.filter(({ status }) => status === 'done').map(({ id }) => id));
  if (readdirSync(path.join(directory, 'prints')).some((name) => !done.has(name))) fail('Half a print is left.');
}

async function killing(directory) {
  await start(directory);
  session = (await json('POST', '/api/sessions', { name: 'Torture' })).body.id;
  let slowest = 0;
  for (let round = 1; round <= rounds; round++) {
    const work = [upload(), commands(40), round % 2 === 0 ? print() : upload()];
    await sleep(round % 4 === 0 ? 1500 + next(1500) : next(900));
    await kill();
    await Promise.all(work);
    const seconds = await start(directory);
    slowest = Math.max(slowest, seconds);
    if (seconds > 5) fail(`The start took ${seconds.toFixed(1)} s.`);
    await inspect(directory);
    if (round % 10 === 0)
      console.log(`${round} rounds: ${told.tracks.size} tracks, ${told.prints.size} prints, slowest start ${slowest.toFixed(1)} s`);
  }
  await kill('SIGTERM');
}

async function staleLock(directory) {
  mkdirSync(path.join(directory, 'owner.held'));
  const space = `${readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim()} ${readlinkSync('/proc/self/ns/pid')}`;
  writeFileSync(path.join(directory, 'owner.json'), JSON.stringify({ pid: process.pid, started: '1', space }));
  await start(directory);
  const second = started('node', ['server.mjs'], {
    env: { ...process.env, ISOTAXIS_DATA: directory, PORT: String(PORT + 1), LOG_LEVEL: 'silent' },
    stdio: ['ignore', 'ignore', 'pipe']
  });
  let said = '';
  second.stderr.on('data', (text) => (said += text));
  const code = await new Promise((resolve) => second.on('exit', resolve));
  if (code === 0 || !/Another Isotaxis/.test(said)) fail(`A second server was not refused: ${said}`);
  await kill('SIGTERM');
  console.log('A stale lock is taken over, a held one is respected.');
}

async function fullDisk() {
  const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-full-'));
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=260m', 'tmpfs', directory], { stdio: 'ignore' });
  } catch {
    console.log('No tmpfs may be mounted here: the full disk was not tried.');
    return;
  }
  try {
    await start(directory);
    session = (await json('POST', '/api/sessions', { name: 'Full' })).body.id;
    told.tracks.clear();
    told.levels.clear();
    told.prints.clear();
    await upload();
    if (told.tracks.size !== 1) fail('The first upload did not work.');
    const room = Number(execFileSync('df', ['--output=avail', '-k', directory], { encoding: 'utf8' }).split('\n')[1]);
    const big = await ask('PUT', `/api/sessions/${session}/media?name=big.wav`, wav(9, Math.round(((room + 2000) * 1024) / 3)), {
      'Content-Type': 'application/octet-stream'
    });
    if (big?.status !== 507 || !/disk is full/.test(big.body.error.message))
      fail(`A file too large for the disk was answered with ${JSON.stringify(big)}.`);
    // To the last block: then commands cannot be written either.
    mkdirSync(path.join(directory, 'ballast'));
    let refusals = 0;
    const said = new Set();
    try {
      for (let i = 0; ; i++) writeFileSync(path.join(directory, 'ballast', String(i)), Buffer.alloc(i < 1000 ? 1 << 18 : 4096));
    } catch (error) {
      if (error.code !== 'ENOSPC') throw error;
    }
    const [id] = told.tracks.keys();
    for (let i = 0; i < 400; i++) {
      const level = -i / 10;
      const answer = await json('POST', `/api/sessions/${session}/commands`, {
        base: 0,
        id: `f${i}`,
        commands: [{ do: 'faders.set', levels: [{ id, level }] }]
      });
      if (answer?.status === 200) told.levels.set(id, { sure: level, maybe: level });
      else if (answer?.status === 507) {
        refusals++;
        said.add(`${answer.status}: ${answer.body?.error?.message ?? answer.body?.message}`);
      } else fail(`On a full disk a command was answered with ${JSON.stringify(answer)}.`);
    }
    rmSync(path.join(directory, 'ballast'), { recursive: true });
    await kill();
    await start(directory);
    await inspect(directory);
    const after = await json('POST', `/api/sessions/${session}/commands`, {
      base: 0,
      id: 'after',
      commands: [{ do: 'faders.set', levels: [{ id, level: -1 }] }]
    });
    if (after?.status !== 200) fail('After making room, a command still fails.');
    await kill('SIGTERM');
    console.log(
      `A full disk: uploads refused in words, ${refusals} of 400 commands refused, nothing acknowledged lost, and on it goes after room was made. Said: ${[...said].join(' | ')}`
    );
  } finally {
    if (child?.exitCode === null) await kill();
    execFileSync('umount', ['-l', directory]);
    rmSync(directory, { recursive: true, force: true });
  }
}

const home = mkdtempSync(path.join(tmpdir(), 'isotaxis-torture-'));
try {
  await killing(home);
  await staleLock(home);
  await fullDisk();
  console.log(`${rounds} kills: nothing acknowledged was lost, nothing half was left.`);
} catch (error) {
  console.error(`Torture: ${error.message}`);
  process.exitCode = 1;
  if (child?.exitCode === null && child.signalCode === null) await kill();
} finally {
  rmSync(home, { recursive: true, force: true });
}

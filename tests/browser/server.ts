// A server for the tests: the built one, on a data directory of its own, that can be killed and started again.
import type { ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { freePort, started } from '../../scripts/started.mjs';
import { madeOnce } from '../madeOnce';

export type TestServer = {
  readonly url: string;
  readonly directory: string;
  readonly kill: () => Promise<void>;
  readonly start: () => Promise<void>;
  readonly remove: () => Promise<void>;
};

const listening = (child: ChildProcess) =>
  new Promise<void>((resolve, reject) => {
    child.stdout!.on('data', (text: Buffer) => text.includes('Isotaxis is at') && resolve());
    child.on('exit', (code) => reject(new Error(`The server ended with ${code}.`)));
  });

/** A data directory with the demo, made once for a build. */
const seeded = () => madeOnce(`demo-${createHash('sha256').update(readFileSync('dist/.built')).digest('hex').slice(0, 16)}`, seed);

async function seed(made: string): Promise<void> {
  const port = String(await freePort());
  const begin = () =>
    started('node', ['server.mjs'], {
      env: { ...process.env, ISOTAXIS_DATA: made, PORT: port, LOG_LEVEL: 'error' },
      stdio: ['ignore', 'pipe', 'inherit']
    });
  // The first start is killed in the middle of making the demo, the second makes up for it: every test stands on that.
  const first = begin();
  const media = path.join(made, 'media');
  while (!existsSync(media) || readdirSync(media).length < 4) await new Promise((resolve) => setTimeout(resolve, 100));
  const killed = new Promise((resolve) => first.once('exit', resolve));
  first.kill('SIGKILL');
  await killed;
  const child = begin();
  await listening(child);
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGTERM');
  await gone;
}

/** A data directory of its own, with the demo. */
export async function demoDirectory(): Promise<string> {
  const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-browser-'));
  cpSync(await seeded(), directory, { recursive: true });
  return directory;
}

export async function startServer(): Promise<TestServer> {
  const directory = await demoDirectory();
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  let child: ChildProcess | null = null;
  const start = async () => {
    child = started('node', ['server.mjs'], {
      env: { ...process.env, ISOTAXIS_DATA: directory, PORT: String(port), LOG_LEVEL: 'error' },
      stdio: ['ignore', 'pipe', 'inherit']
    });
    const mine = child;
    await listening(mine);
  };
  const kill = async () => {
    const mine = child;
    if (!mine || mine.exitCode !== null) return;
    const gone = new Promise((resolve) => mine.once('exit', resolve));
    mine.kill('SIGKILL');
    await gone;
  };
  await start();
  return {
    url,
    directory,
    start,
    kill,
    remove: async () => {
      await kill();
      rmSync(directory, { recursive: true });
    }
  };
}

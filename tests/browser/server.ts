// A server for the tests: the built one, on a data directory of its own, that can be killed and started again.
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

export type TestServer = {
  readonly url: string;
  readonly directory: string;
  readonly kill: () => Promise<void>;
  readonly start: () => Promise<void>;
  readonly remove: () => Promise<void>;
};

let nextPort = 4800 + (process.pid % 500);

export async function startServer(): Promise<TestServer> {
  const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-browser-'));
  const port = nextPort++;
  const url = `http://127.0.0.1:${port}`;
  let child: ChildProcess | null = null;
  const start = async () => {
    child = spawn('node', ['server.mjs'], {
      env: { ...process.env, ISOTAXIS_DATA: directory, PORT: String(port), LOG_LEVEL: 'error' },
      stdio: ['ignore', 'pipe', 'inherit']
    });
    const mine = child;
    await new Promise<void>((resolve, reject) => {
      mine.stdout!.on('data', (text: Buffer) => text.includes('Isotaxis is at') && resolve());
      mine.on('exit', (code) => reject(new Error(`The server ended with ${code}.`)));
    });
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

// For benches and pictures: a server on a data directory of its own, requests to it, and Debian's Chromium.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';
import { freePort, started } from './started.mjs';

/** Starts both; `end` stops them and removes the directory. */
export async function serve() {
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-bench-'));
  const server = started('node', ['server.mjs'], {
    env: { ...process.env, ISOTAXIS_DATA: directory, PORT: String(port), LOG_LEVEL: 'silent' },
    stdio: ['ignore', 'pipe', 'inherit']
  });
  await new Promise((resolve, reject) => {
    server.stdout.on('data', (text) => String(text).includes('Isotaxis is at') && resolve());
    server.on('exit', (code) => reject(new Error(`The server ended with ${code}.`)));
  });
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--autoplay-policy=no-user-gesture-required',
      '--disable-audio-output',
      '--disable-background-networking'
    ]
  });
  const post = async (where, body) => {
    const response = await fetch(url + where, { method: 'POST', body: JSON.stringify(body) });
    if (!response.ok) throw new Error(await response.text());
    return response.json();
  };
  const end = async () => {
    await browser.close();
    const gone = new Promise((resolve) => server.once('exit', resolve));
    server.kill('SIGTERM');
    await gone;
    rmSync(directory, { recursive: true, force: true });
  };
  return { url, browser, post, end };
}

// Makes docs/screenshots anew from the demo: a server of its own on a fresh data directory, Debian's Chromium, 1280 × 800.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';

const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-pictures-'));
const PORT = '4790';
const url = `http://127.0.0.1:${PORT}`;
const server = spawn('node', ['server.mjs'], {
  env: { ...process.env, ISOTAXIS_DATA: directory, PORT },
  stdio: ['ignore', 'pipe', 'inherit']
});
await new Promise((resolve, reject) => {
  server.stdout.on('data', (text) => text.includes('Isotaxis is at') && resolve());
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
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'light' });
  const shot = (name) => page.screenshot({ path: `docs/screenshots/${name}.png` });
  const open = async (view) => {
    await page.goto(`${url}/s/ferry-shed-halfway/${view}`);
    await page.getByRole('button', { name: 'Play', exact: true }).waitFor();
  };
  const playAt = async (seconds) => {
    await page.evaluate((at) => window.isotaxis.transport.locate(at * 48000), seconds);
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.waitForTimeout(2500);
  };

  await open('ledger');
  await page.getByRole('button', { name: 'Tenor pan L', exact: true }).click();
  await page.getByRole('button', { name: 'Tenor pan R', exact: true }).click({ modifiers: ['Shift'] });
  await playAt(30);
  await shot('ledger-day');
  await page.getByRole('button', { name: 'Night colours' }).click();
  await page.getByRole('button', { name: 'Solo PANS', exact: true }).click();
  await page.waitForTimeout(1500);
  await shot('ledger-night');
  await page.getByRole('button', { name: 'Solo PANS', exact: true }).click();
  await page.getByRole('button', { name: 'Day colours' }).click();
  await page.getByRole('button', { name: 'Lead voice', exact: true }).click();
  await page.waitForTimeout(800);
  await shot('side-sheet');
  await page.keyboard.press('Space');

  const wav = (rate, frames, claimed = frames) => {
    const bytes = Buffer.alloc(44 + frames * 2);
    bytes.write('RIFF', 0);
    bytes.writeUInt32LE(36 + frames * 2, 4);
    bytes.write('WAVEfmt ', 8);
    bytes.writeUInt32LE(16, 16);
    for (const [at, value] of [
      [20, 1],
      [22, 1],
      [32, 2],
      [34, 16]
    ])
      bytes.writeUInt16LE(value, at);
    bytes.writeUInt32LE(rate, 24);
    bytes.writeUInt32LE(rate * 2, 28);
    bytes.write('data', 36);
    bytes.writeUInt32LE(claimed * 2, 40);
    return bytes;
  };
  const file = (name, buffer) => ({ name, mimeType: 'audio/wav', buffer });
  await page
    .locator('input[type=file]')
    .setInputFiles([
      file('Cowbell overdub.wav', wav(48000, 96000)),
      file('Accordion.wav', wav(48000, 120000)),
      file('Lead voice old take.wav', wav(44100, 44100)),
      file('Sousaphone DI.wav', wav(48000, 40000, 960000)),
      file('set list.wav', Buffer.from('Lanterns, Turn, Ferry Shed'))
    ]);
  await page.getByText('2 of 5 files imported').waitFor();
  await page.waitForTimeout(500);
  await shot('import-report');
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).last().click();
  await page.keyboard.press('Control+z');

  await page.getByRole('link', { name: 'Prints' }).click();
  await page.getByRole('button', { name: 'Print the mix' }).click();
  await page.getByRole('link', { name: 'Download' }).waitFor({ timeout: 60_000 });
  await page.waitForTimeout(6500);
  await shot('prints');
} finally {
  await browser.close();
  const gone = new Promise((resolve) => server.once('exit', resolve));
  server.kill('SIGTERM');
  await gone;
  rmSync(directory, { recursive: true });
}

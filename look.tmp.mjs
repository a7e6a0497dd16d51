import { chromium } from '@playwright/test';
export const launch = async () =>
  chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--autoplay-policy=no-user-gesture-required',
      '--disable-audio-output'
    ]
  });
const b = await launch();
const p = await b.newPage({ viewport: { width: 1280, height: 800 } });
p.on('console', (m) => ['error', 'warning'].includes(m.type()) && console.log('console', m.type(), m.text().slice(0, 300)));
p.on('pageerror', (e) => console.log('pageerror', e.message.slice(0, 400)));
const step = (await import('/tmp/step.mjs')).default;
try {
  await Promise.race([step(p, b), new Promise((_, r) => setTimeout(() => r(new Error('timeout')), 50000))]);
} catch (e) {
  console.log('STEP', e.message.slice(0, 600));
  await p.screenshot({ path: '/tmp/fail.png' });
}
await b.close();

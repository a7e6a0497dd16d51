import { serve } from './serve.mjs';
const at = await serve(5194);
try {
  const page = await at.browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on('pageerror', (e) => console.log('ERR', e.message)); page.on('console', (m) => m.type() === 'error' && console.log('CON', m.text()));
  await page.goto(`${at.url}/s/ferry-shed-finished/timeline`); await page.waitForSelector('[data-lane]', { timeout: 20000 });
  await page.waitForTimeout(2000);
  await page.getByRole('button', { name: 'Automated' }).click();
  await page.waitForTimeout(600);
  // the send lane: add a point, drag it, draw
  const rows = await page.locator('[data-points]').count(); console.log('lanes shown', rows);
  const lane = page.locator('[data-points]').nth(1); const box = await lane.boundingBox();
  await page.mouse.click(box.x + 200, box.y + 10); await page.waitForTimeout(200);
  await page.mouse.move(box.x + 200, box.y + 10); await page.mouse.down(); await page.mouse.move(box.x + 240, box.y + 30, { steps: 8 }); await page.mouse.up();
  await page.mouse.move(box.x + 300, box.y + 36); await page.mouse.down(); for (let i = 0; i <= 40; i++) await page.mouse.move(box.x + 300 + i * 2, box.y + 22 + 14 * Math.cos(i / 6)); await page.screenshot({ path: '/tmp/w/l3.png' }); await page.mouse.up();
  await page.waitForTimeout(400);
  console.log(await page.evaluate(() => { const s = window.isotaxis.store; return JSON.stringify([...s.session.point.values()].filter((p) => p.laneId.startsWith('throw')).sort((a, b) => a.at - b.at).map((p) => [p.at, p.value])); }));
  await page.keyboard.press('Escape');
  await page.screenshot({ path: '/tmp/w/l1.png' });
  await page.goto(`${at.url}/s/ferry-shed-finished/ledger`); await page.waitForSelector('[data-row]'); 
  await page.evaluate(() => window.isotaxis.transport.locate(19.5 * 48000));
  await page.getByRole('button', { name: /^Play/ }).first().click(); await page.waitForTimeout(2500);
  await page.evaluate(() => document.querySelector('.scroll, [role=treegrid]')?.scrollTo?.(0, 700));
  await page.waitForTimeout(600);
  await page.screenshot({ path: '/tmp/w/l2.png' });
} finally { await at.end(); }

import { serve } from './serve.mjs';
const { url, browser, post, end } = await serve(4871);
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: process.argv[2] ?? 'light' });
  page.on('console', (m) => ['error', 'warning'].includes(m.type()) && console.log(m.text()));
  page.on('pageerror', (e) => console.log('ERR', e.message));
  await page.goto(url + '/');
  await page.locator('[data-session]').first().waitFor();
  await page.getByRole('button', { name: /What to do with Ferry Shed – half/ }).click();
  await page.getByRole('button', { name: 'Rename…' }).click();
  await page.getByRole('dialog').getByLabel('Name').fill('Second half');
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  await page.evaluate(() => { window.x = 1; window.el = document.querySelector('input[type=search]'); });
  await page.getByRole('searchbox').fill('HALF second');
  for (let i = 0; i < 6; i++) { console.log(await page.evaluate(() => [window.x, window.el.isConnected, window.el.value, document.activeElement?.tagName, document.querySelector('input[type=search]').value])); await page.waitForTimeout(80); }
  await page.waitForTimeout(500);
  console.log(await page.locator('[data-session]').count(), await page.getByRole('searchbox').inputValue());
  await page.screenshot({ path: '/tmp/w/s2.png' });await page.getByRole('searchbox').fill('');
  await page.getByRole('button', { name: /What to do with Ferry Shed – finished/ }).click();
  await page.waitForTimeout(400);
  await page.screenshot({ path: '/tmp/w/s1.png' });
} finally { await end(); }

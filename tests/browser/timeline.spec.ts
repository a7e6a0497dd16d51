// The Timeline under a real pointer and keyboard: cut, dragged with what is linked, typed, ranged; bleed found, heard and cut.
import { expect, test } from '@playwright/test';
import { grave } from './axe';
import { startServer, type TestServer } from './server';

let server: TestServer;
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(() => server.remove());

test('clips are cut, dragged with what is linked, typed, taken out by range, and all of it is undone', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-finished/timeline`);
  const row = (name: string) => page.locator('[data-row]', { has: page.getByRole('button', { name, exact: true }) });
  const lane = (name: string) => row(name).locator('[data-lane]');
  const undo = page.getByRole('button', { name: /^Undo: / });
  await expect(lane('Caixa')).toHaveAttribute('aria-label', 'Caixa: 2 clips');
  const box = (await lane('Surdo low').boundingBox())!;
  const y = box.y + box.height / 2;
  await page.mouse.click(box.x + 150, y);
  const aside = page.getByRole('complementary', { name: 'Clip' });
  await expect(aside).toContainText('cuts, moves, fades followed by Caixa');
  await page.evaluate(() => window.isotaxis.transport.locate(480_000));
  await page.keyboard.press('k');
  await expect(undo).toHaveText('Undo: Cut Surdo low at 0:10.000, and 1 linked');
  await expect(lane('Caixa')).toHaveAttribute('aria-label', 'Caixa: 3 clips');
  // The piece behind the cut, dragged: what would be is shown, Escape gives it up, letting go does it on both.
  const starts = () =>
    page.evaluate(() =>
      ['Surdo low', 'Caixa'].map((name) => {
        const { store } = window.isotaxis;
        const id = store.channels.find((channel) => channel.name === name)!.id;
        return store.clips(id).map(({ start }) => start);
      })
    );
  const before = await starts();
  await page.mouse.move(box.x + 250, y);
  await page.mouse.down();
  await page.mouse.move(box.x + 290, y, { steps: 4 });
  await expect(lane('Caixa')).toHaveAttribute('aria-label', 'Caixa: 3 clips');
  await expect(page.locator('.word')).toContainText('+0:0');
  await page.keyboard.press('Escape');
  await page.mouse.up();
  expect(await starts()).toEqual(before);
  await page.mouse.move(box.x + 250, y);
  await page.mouse.down();
  await page.mouse.move(box.x + 290, y, { steps: 4 });
  await page.mouse.up();
  await expect(undo).toContainText(/Move Surdo low, 0:02\.\d+ later, and 1 linked/);
  const after = await starts();
  expect(after[0]).toEqual(after[1]);
  expect(after[0][1]).toBeGreaterThan(before[0][1]);
  // Its place and its fade typed.
  await aside.getByRole('button', { name: /^Start: / }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('bar 8 · 2');
  await page.keyboard.press('Enter');
  await expect(aside.getByRole('button', { name: 'Start: bar 8 · 2 + 0 ms' })).toBeVisible();
  await aside.getByRole('button', { name: /^Fade in in ms/ }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('40');
  await page.keyboard.press('Enter');
  await expect(undo).toHaveText('Undo: Fade-in of Surdo low, and 1 linked');
  expect(await grave(page, '.timeline')).toEqual([]);
  // A range over two rows, with Shift held.
  await page.locator('.scroll').evaluate((element) => element.scrollTo(0, 200));
  const pan = (await lane('Bass pan').boundingBox())!;
  await page.keyboard.down('Shift');
  await page.mouse.move(pan.x + 200, pan.y + 20);
  await page.mouse.down();
  await page.mouse.move(pan.x + 300, pan.y + 60, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  await expect(aside).toContainText('2 rows');
  await page.keyboard.press('Delete');
  await expect(undo).toContainText('out of 2 channels');
  await expect(lane('Guitar pan')).toHaveAttribute('aria-label', 'Guitar pan: 2 clips');
  for (let i = 0; i < 5; i++) {
    const label = await undo.textContent();
    await page.keyboard.press('Control+z');
    await expect(page.getByRole('button', { name: label!, exact: true })).toBeHidden();
  }
  expect(await starts()).toEqual([before[0].toSpliced(1, 1), before[1].toSpliced(1, 1)]);
  // A named range loops from over the song.
  await page.getByRole('button', { name: 'Range Lanterns', exact: true }).click();
  expect(await page.evaluate(() => window.isotaxis.transport.loop)).toEqual({ from: 1_107_692, to: 1_993_846 });
});

test('bleed is found, tuned, heard and cut as one step', async ({ page }) => {
  await page.goto(`${server.url}/s/ferry-shed-halfway/timeline`);
  await page.locator('.scroll').evaluate((element) => element.scrollTo(0, 820));
  await page.getByRole('button', { name: 'Choir S', exact: true }).click();
  await page.keyboard.press('b');
  const aside = page.getByRole('complementary', { name: 'Clip' });
  await expect(aside).toContainText('Bleed found · 4');
  await expect(page.locator('[data-row]').getByText('bleed')).toBeVisible();
  await aside.getByRole('button', { name: 'Hear what would go' }).click();
  await expect(aside.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  await aside.getByRole('button', { name: 'Stop', exact: true }).click();
  await aside.getByRole('slider', { name: 'Threshold' }).fill('-70');
  await expect(aside).not.toContainText('Bleed found · 4');
  await aside.getByRole('button', { name: /^Threshold in dBFS/ }).dblclick();
  await expect(aside).toContainText('Bleed found · 4');
  await aside.getByRole('checkbox').first().uncheck();
  await aside.getByRole('button', { name: 'Cut these 3' }).click();
  const lane = page.locator('[data-row]', { has: page.getByRole('button', { name: 'Choir S', exact: true }) }).locator('[data-lane]');
  await expect(lane).toHaveAttribute('aria-label', 'Choir S: 3 clips');
  await page.keyboard.press('Control+z');
  await expect(lane).toHaveAttribute('aria-label', 'Choir S: 1 clip');
});

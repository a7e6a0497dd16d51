// npm run bench -- timeline: the Timeline of 500 rows × 1 hour, 40 clips a row, in headless Chromium: time from opening to its first
// pictures, frames a second while scrolling, panning and zooming from the whole hour to single samples; a drag of a clip; beside 24 rows.
import { serve } from '../scripts/serve.mjs';

const { url, browser, post, end } = await serve();
/** A recording that the store has: others would be refused. */
const media = (await (await fetch(`${url}/api/sessions/ferry-shed`)).json()).document.media.find(({ channels }) => channels === 1);
const HOUR = 3600 * 48000;

async function desk(rows) {
  const { id } = await post('/api/sessions', { name: `${rows} rows` });
  const act = (...commands) => post(`/api/sessions/${id}/commands`, { base: 0, id: crypto.randomUUID(), commands });
  const buses = Math.max(1, Math.round(rows / 12));
  const tracks = Array.from({ length: rows - buses }, (_, i) => `t${i}`);
  await act({ do: 'tracks.add', tracks: tracks.map((track, i) => ({ id: track, name: `Track ${i + 1}`, colour: i % 12, media })) });
  await act(
    ...Array.from({ length: buses }, (_, i) => ({
      do: 'buses.add',
      id: `b${i}`,
      name: `BUS ${i + 1}`,
      colour: i % 12,
      members: tracks.filter((_, n) => n % buses === i)
    }))
  );
  const step = Math.floor((HOUR - media.frames) / 39);
  const ids = tracks.map((track) => `${track}:1`);
  for (let i = 1; i < 40; i++) await act({ do: 'clips.duplicate', ids, by: i * step, as: `c${i}` });
  return id;
}

async function measured(id) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const began = Date.now();
  await page.goto(`${url}/s/${id}/timeline`, { waitUntil: 'commit' });
  await page.waitForSelector('[data-lane]');
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve))));
  const opened = (Date.now() - began) / 1000;
  await page.waitForTimeout(1500);
  /** Frames a second over three seconds in which something is done before each. */
  const paced = (what) =>
    page.evaluate(
      (kind) =>
        new Promise((resolve) => {
          const element = document.querySelector('.scroll');
          const box = element.getBoundingClientRect();
          const wheel = (fields) =>
            element.dispatchEvent(
              new WheelEvent('wheel', { bubbles: true, cancelable: true, clientX: box.left + 600, clientY: box.top + 300, ...fields })
            );
          let frames = 0;
          const start = performance.now();
          const step = () => {
            const share = (performance.now() - start) / 3000;
            if (kind === 'scroll') {
              element.scrollBy(0, 24);
              if (element.scrollTop + element.clientHeight >= element.scrollHeight - 1) element.scrollTop = 0;
            } else if (kind === 'pan') wheel({ deltaX: share < 0.5 ? 20 : -20 });
            else wheel({ ctrlKey: true, deltaY: share < 0.5 ? -60 : 60 });
            frames++;
            if (share < 1) requestAnimationFrame(step);
            else resolve(Math.round((frames / (performance.now() - start)) * 1000));
          };
          requestAnimationFrame(step);
        }),
      what
    );
  const scroll = await paced('scroll');
  const zoom = await paced('zoom');
  for (let i = 0; i < 6; i++) await page.keyboard.press('+');
  const pan = await paced('pan');
  await page.keyboard.press('0');
  await page.waitForTimeout(300);
  const drag = await page.evaluate(async () => {
    const lane = [...document.querySelectorAll('[data-lane]')].find((each) => each.dataset.lane.startsWith('t'));
    const box = lane.getBoundingClientRect();
    const at = (type, x) =>
      lane.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, button: 0, buttons: 1, clientX: x, clientY: box.top + 20 }));
    HTMLElement.prototype.setPointerCapture = () => {};
    at('pointerdown', box.left + 5);
    const start = performance.now();
    let frames = 0;
    while (performance.now() - start < 2000) {
      const scroller = document.querySelector('.scroll');
      scroller.dispatchEvent(
        new PointerEvent('pointermove', {
          bubbles: true,
          pointerId: 1,
          buttons: 1,
          clientX: box.left + 5 + (frames % 60),
          clientY: box.top + 20
        })
      );
      await new Promise((resolve) => requestAnimationFrame(resolve));
      frames++;
    }
    document.querySelector('.scroll').dispatchEvent(new PointerEvent('pointercancel', { bubbles: true, pointerId: 1 }));
    return Math.round((frames / (performance.now() - start)) * 1000);
  });
  await page.close();
  return { opened: Number(opened.toFixed(2)), scroll, pan, zoom, drag };
}

try {
  const [few, many] = [await desk(24), await desk(500)];
  const result = { few: await measured(few), many: await measured(many) };
  if (process.argv.includes('--json')) console.log(JSON.stringify(result));
  else
    for (const [name, { opened, scroll, pan, zoom, drag }] of Object.entries({ '24 rows': result.few, '500 rows': result.many }))
      console.log(
        `${name} × 1 hour: open after ${opened} s; frames a second: ${scroll} scrolling, ${pan} panning, ${zoom} zooming, ${drag} dragging a clip`
      );
} finally {
  await end();
}

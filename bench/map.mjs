// npm run bench -- map: the Map of 300 channels in headless Chromium: time from opening the view to its first drawing, from a change to
// the new layout, frames a second while panning and zooming; beside a session of 30.
import { serve } from '../scripts/serve.mjs';

const { url, browser, post, end } = await serve();
/** A recording that the store has: others would be refused. */
const media = (await (await fetch(`${url}/api/sessions/ferry-shed`)).json()).document.media.find(({ channels }) => channels === 1);

async function desk(count) {
  const { id } = await post('/api/sessions', { name: `${count} channels` });
  const act = (...commands) => post(`/api/sessions/${id}/commands`, { base: 0, id: crypto.randomUUID(), commands });
  const buses = Math.round(count / 12);
  const tracks = Array.from({ length: count - buses - 8 }, (_, i) => `t${i}`);
  await act({ do: 'tracks.add', tracks: tracks.map((track, i) => ({ id: track, name: `Track ${i + 1}`, colour: i % 12, media })) });
  await act(
    ...Array.from({ length: buses }, (_, i) => ({
      do: 'buses.add',
      id: `b${i}`,
      name: `BUS ${i + 1}`,
      colour: i % 12,
      members: tracks.filter((_, n) => n % buses === i)
    })),
    ...Array.from({ length: 8 }, (_, i) => ({
      do: 'returns.add',
      id: `r${i}`,
      name: `R ${i}`,
      sources: tracks.filter((_, n) => n % 8 === i)
    }))
  );
  return id;
}

/** Frames a second while it is panned and zoomed. */
const fps = async (page) =>
  Math.round(
    await page.evaluate(async () => {
      const paper = document.querySelector('.paper');
      const start = performance.now();
      let frames = 0;
      while (performance.now() - start < 2500) {
        paper.dispatchEvent(
          new WheelEvent('wheel', {
            deltaY: frames % 40 < 20 ? 20 : -20,
            shiftKey: frames % 2 === 0,
            clientX: 500,
            clientY: 400,
            bubbles: true,
            cancelable: true
          })
        );
        frames++;
        await new Promise(requestAnimationFrame);
      }
      return (frames / (performance.now() - start)) * 1000;
    })
  );

async function measured(id) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${url}/s/${id}/ledger`);
  await page.waitForSelector('[data-row]');
  const began = Date.now();
  await page.getByRole('link', { name: 'Map', exact: true }).click();
  await page.waitForSelector('[data-node]');
  const opened = Date.now() - began;
  const opening = await fps(page);
  // What did not fit was folded: the rest is of all channels at once.
  const unfold = page.getByRole('button', { name: /^Unfold/ });
  if (await unfold.count()) await unfold.click();
  await page.waitForSelector('[data-node=t0]');
  const relaid = await page.evaluate(async () => {
    const { store } = window.isotaxis;
    const place = () => document.querySelector('[data-node=t0]').getBoundingClientRect().y;
    const before = place();
    const start = performance.now();
    store.act([{ do: 'channels.route', ids: ['t0'], to: 'b1' }]);
    while (place() === before && performance.now() - start < 3000) await new Promise(requestAnimationFrame);
    return performance.now() - start;
  });
  const unfolded = await fps(page);
  await page.close();
  return { openMs: opened, panAndZoomFps: opening, changeToLayoutMs: Math.round(relaid), unfoldedPanAndZoomFps: unfolded };
}

try {
  console.log(JSON.stringify({ bench: 'map', 30: await measured(await desk(30)), 300: await measured(await desk(300)) }, null, 1));
} finally {
  await end();
}

// npm run bench -- interface: the Ledger at 500 channels × 24 returns in headless Chromium: time to first paint, frames a second
// while scrolling both ways, how many rows are drawn anew while a fader is dragged, and the Roster: scrolling, renaming every track; Links with 40
// groups, and a hand on one of a hundred linked faders and on a VCA; beside a session of 24 channels × 2.
import { serve } from '../scripts/serve.mjs';

const { url, browser, post, end } = await serve();
/** A recording that the store has: others would be refused. */
const media = (await (await fetch(`${url}/api/sessions/ferry-shed`)).json()).document.media.find(({ channels }) => channels === 1);
async function desk(channels, returns) {
  const { id } = await post('/api/sessions', { name: `${channels} × ${returns}` });
  const act = (...commands) => post(`/api/sessions/${id}/commands`, { base: 0, id: crypto.randomUUID(), commands });
  const buses = Math.max(2, Math.round(channels / 12));
  const tracks = Array.from({ length: channels - buses }, (_, i) => `t${i}`);
  await act({ do: 'tracks.add', tracks: tracks.map((track, i) => ({ id: track, name: `Track ${i + 1}`, colour: i % 12, media })) });
  for (let i = 0; i < buses; i++)
    await act({ do: 'buses.add', id: `b${i}`, name: `BUS ${i + 1}`, colour: i % 12, members: tracks.filter((_, n) => n % buses === i) });
  for (let i = 0; i < returns; i++) {
    await act({ do: 'returns.add', id: `r${i}`, name: `Return ${i + 1}`, effect: 'none' });
    await act({ do: 'sends.set', sends: tracks.map((source, n) => ({ source, target: `r${i}`, level: -((n * 7 + i * 3) % 40) })) });
  }
  return id;
}

async function measured(browser, id) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const began = Date.now();
  await page.goto(`${url}/s/${id}/ledger`, { waitUntil: 'commit' });
  await page.waitForSelector('[data-row]');
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve))));
  const firstPaint = (Date.now() - began) / 1000;
  await page.waitForTimeout(500);
  const scroll = (dx, dy) =>
    page.evaluate(
      ([x, y]) =>
        new Promise((resolve) => {
          const element = document.querySelector('.scroll');
          let frames = 0;
          const start = performance.now();
          const step = () => {
            frames++;
            element.scrollBy(x, y);
            if (element.scrollTop + element.clientHeight >= element.scrollHeight - 1) element.scrollTop = 0;
            if (element.scrollLeft + element.clientWidth >= element.scrollWidth - 1) element.scrollLeft = 0;
            if (performance.now() - start < 3000) requestAnimationFrame(step);
            else resolve((frames / (performance.now() - start)) * 1000);
          };
          requestAnimationFrame(step);
        }),
      [dx, dy]
    );
  const down = await scroll(0, 24);
  const across = await scroll(9, 0);
  await page.evaluate(() => document.querySelector('.scroll').scrollTo(0, 0));
  await page.waitForTimeout(300);
  const drag = await page.evaluate(async () => {
    const { store } = window.isotaxis;
    const id = [...store.session.channel.values()].find(({ kind }) => kind === 'track').id;
    document.querySelector(`[data-row="${id}"]`);
    const touched = new Set();
    let records = 0;
    const observer = new MutationObserver((list) => {
      for (const { target } of list) {
        const element = target.nodeType === 1 ? target : target.parentElement;
        const row = element?.closest('[data-row]');
        if (row) touched.add(row.dataset.row);
        if (row) records++;
      }
    });
    observer.observe(document.querySelector('.rows'), { subtree: true, childList: true, attributes: true, characterData: true });
    const start = performance.now();
    let busy = 0;
    for (let i = 1; i <= 60; i++) {
      const before = performance.now();
      store.act([{ do: 'faders.set', levels: [{ id, level: -i / 5 }] }], 'bench');
      busy += performance.now() - before;
      await new Promise((resolve) => requestAnimationFrame(resolve));
    }
    observer.disconnect();
    return {
      rows: [...touched].filter((row) => row !== id).length,
      records,
      msAMove: busy / 60,
      fps: (60 / (performance.now() - start)) * 1000
    };
  });
  await page.goto(`${url}/s/${id}/roster`, { waitUntil: 'commit' });
  await page.waitForSelector('[data-row]');
  await page.waitForTimeout(500);
  const rosterDown = await scroll(0, 24);
  await page.evaluate(() => document.querySelector('.scroll').scrollTo(0, 0));
  await page.waitForTimeout(300);
  /** From the command to the frame after the one that shows it. */
  const renameMs = await page.evaluate(async () => {
    const { store } = window.isotaxis;
    const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
    await frame();
    const tracks = [...store.session.channel.values()].filter(({ kind }) => kind === 'track');
    const start = performance.now();
    store.act([{ do: 'channels.rename', names: tracks.map(({ id, name }) => ({ id, name: `Renamed ${name}` })) }]);
    await frame();
    await new Promise((resolve) => setTimeout(resolve));
    if (!document.querySelector('[data-focus]').textContent.startsWith('Renamed')) throw new Error('The new names are not shown.');
    return performance.now() - start;
  });
  const tracks = await page.evaluate(() =>
    [...window.isotaxis.store.session.channel.values()].filter(({ kind }) => kind === 'track').map(({ id: track }) => track)
  );
  const part = (i, count) => tracks.filter((_, n) => (n * 7 + i) % Math.max(1, Math.floor(tracks.length / count)) === 0);
  await post(`/api/sessions/${id}/commands`, {
    base: 0,
    id: crypto.randomUUID(),
    commands: [
      ...Array.from({ length: 12 }, (_, i) => ({ do: 'vcas.add', id: `v${i}`, name: `VCA ${i + 1}`, members: part(i, 60) })),
      ...Array.from({ length: 27 }, (_, i) => ({
        do: 'links.add',
        id: `l${i}`,
        name: `Group ${i + 1}`,
        badge: `g${i + 1}`,
        members: part(i, 40),
        attributes: ['pan', 'mute']
      })),
      { do: 'links.add', id: 'hundred', name: 'Hundred', badge: '100', members: tracks.slice(0, 100), attributes: ['level'] }
    ]
  });
  await page.goto(`${url}/s/${id}/links`, { waitUntil: 'commit' });
  await page.waitForSelector('[data-row]');
  await page.waitForTimeout(500);
  const linksDown = await scroll(0, 24);
  const linksAcross = await scroll(9, 0);
  await page.goto(`${url}/s/${id}/ledger`, { waitUntil: 'commit' });
  await page.waitForSelector('[data-row]');
  await page.waitForTimeout(800);
  /** A hand on one of a hundred that are linked, and on a VCA: every frame a move. */
  const linked = await page.evaluate(async () => {
    const { store } = window.isotaxis;
    const [first] = [...store.session.channel.values()].filter(({ kind }) => kind === 'track');
    const members = [...store.session.linkMember.values()].filter(({ linkId }) => linkId === 'hundred').map(({ channelId }) => channelId);
    const anchors = Object.fromEntries(members.map((member) => [member, store.session.channel.get(member).faderDb]));
    const run = async (move) => {
      const start = performance.now();
      let busy = 0;
      for (let i = 1; i <= 90; i++) {
        const before = performance.now();
        store.act([move(i)], 'linked');
        busy += performance.now() - before;
        await new Promise((resolve) => requestAnimationFrame(resolve));
      }
      return { fps: (90 / (performance.now() - start)) * 1000, ms: busy / 90 };
    };
    const from = anchors[first.id];
    const link = await run((i) => ({
      do: 'faders.move',
      ids: [first.id],
      lead: { from, was: from - (i - 1) / 5, to: from - i / 5 },
      anchors
    }));
    const vca = await run((i) => ({ do: 'faders.set', levels: [{ id: 'v0', level: -i / 5 }] }));
    return { link, vca };
  });
  await page.close();
  return {
    firstPaintSeconds: Number(firstPaint.toFixed(2)),
    scrollDownFps: Math.round(down),
    scrollAcrossFps: Math.round(across),
    dragFps: Math.round(drag.fps),
    dragMsAMove: Number(drag.msAMove.toFixed(2)),
    otherRowsRedrawn: drag.rows,
    rosterScrollFps: Math.round(rosterDown),
    renameAllMs: Math.round(renameMs),
    linksDownFps: Math.round(linksDown),
    linksAcrossFps: Math.round(linksAcross),
    linkOf100Fps: Math.round(linked.link.fps),
    linkOf100MsAMove: Number(linked.link.ms.toFixed(2)),
    vcaFps: Math.round(linked.vca.fps),
    vcaMsAMove: Number(linked.vca.ms.toFixed(2))
  };
}

try {
  const small = await measured(browser, await desk(24, 2));
  const large = await measured(browser, await desk(500, 24));
  console.log(
    JSON.stringify(
      {
        bench: 'interface',
        '24 × 2': small,
        '500 × 24': large,
        paintRatio: Number((large.firstPaintSeconds / small.firstPaintSeconds).toFixed(2))
      },
      null,
      1
    )
  );
} finally {
  await end();
}

// npm run bench -- live: playback of a session of so many processed tracks in headless Chromium: underruns and the mix worker's share of
// a core while nothing is moved, time from a fader's move to the ring, from a locate to its first block; beside playing one track.
import { readdirSync, readFileSync } from 'node:fs';
import { serve } from '../scripts/serve.mjs';

const option = (name, otherwise) => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? otherwise : Number(process.argv[at + 1]);
};
const TRACKS = option('tracks', 64);
const SECONDS = option('seconds', 60);
const { url, browser, post, end } = await serve();

/** The demo's recordings again and again, each track with equaliser and compressor, sends into two reverbs. */
async function desk(count) {
  const { document } = await (await fetch(`${url}/api/sessions/ferry-shed`)).json();
  const { id } = await post('/api/sessions', { name: `${count} tracks` });
  const act = (...commands) => post(`/api/sessions/${id}/commands`, { base: 0, id: crypto.randomUUID(), commands });
  const media = document.media.filter(({ channels }) => channels === 1);
  const ids = Array.from({ length: count }, (_, i) => `t${i}`);
  await act({ do: 'tracks.add', tracks: ids.map((track, i) => ({ id: track, name: track, media: media[i % media.length] })) });
  await act(
    ...['b0', 'b1', 'b2', 'b3'].map((bus, i) => ({ do: 'buses.add', id: bus, name: bus, members: ids.filter((_, n) => n % 4 === i) })),
    ...['r0', 'r1'].map((room) => ({ do: 'returns.add', id: room, name: room })),
    { do: 'sends.set', sends: ids.flatMap((source) => ['r0', 'r1'].map((target) => ({ source, target, level: -18 }))) },
    { do: 'faders.set', levels: ids.map((track) => ({ id: track, level: -14 })) }
  );
  await act(
    ...ids.flatMap((channelId) => [
      { do: 'inserts.add', id: `${channelId}:eq`, channelId, type: 'eq' },
      {
        do: 'inserts.set',
        id: `${channelId}:eq`,
        values: { 'b1.on': 1, 'b2.on': 1, 'b2.gain': 2, 'b3.on': 1, 'b3.gain': -3, 'b5.on': 1, 'b5.gain': 2 }
      },
      { do: 'inserts.add', id: `${channelId}:comp`, channelId, type: 'comp' }
    ])
  );
  return id;
}

/** CPU seconds so far of the browser's worker threads: the mix worker's, but for a little. */
function workers() {
  let ticks = 0;
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer')) continue;
      for (const thread of readdirSync(`/proc/${pid}/task`)) {
        const stat = readFileSync(`/proc/${pid}/task/${thread}/stat`, 'utf8');
        const [user, system] = stat
          .slice(stat.lastIndexOf(')') + 2)
          .split(' ')
          .slice(11, 13);
        if (stat.includes('(DedicatedWorker')) ticks += Number(user) + Number(system);
      }
    } catch (error) {
      // A process that ended while it was looked at.
      if (error.code !== 'ENOENT' && error.code !== 'ESRCH') throw error;
    }
  return ticks / 100;
}

/** CPU seconds of the whole machine so far. Idle, waiting and stolen time (of a virtual machine) is nobody's work. */
const machine = () => {
  const [user, nice, system, , , irq, softirq] = readFileSync('/proc/stat', 'utf8').split('\n')[0].split(/\s+/).slice(1).map(Number);
  return (user + nice + system + irq + softirq) / 100;
};

const quantile = (list, q) => [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * q))];

async function measured(browser, id) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${url}/s/${id}/ledger`);
  await page.waitForFunction(() => 'isotaxis' in window);
  // The demo is shorter than a long bench: it goes round.
  await page.evaluate(() => window.isotaxis.transport.setLoop({ from: 0, to: 47 * 48000 }));
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForTimeout(3000);
  const before = await page.evaluate(() => window.isotaxis.transport.underruns());
  const [all, own, began] = [machine(), workers(), Date.now()];
  await page.waitForTimeout(SECONDS * 1000);
  const seconds = (Date.now() - began) / 1000;
  const [busy, mixing] = [machine() - all, workers() - own].map((spent) => Number((spent / seconds).toFixed(2)));
  const underruns = (await page.evaluate(() => window.isotaxis.transport.underruns())) - before;
  const rerouting = await page.evaluate(async () => {
    const { store, transport } = window.isotaxis;
    const from = transport.underruns();
    for (let i = 0; i < 20; i++) {
      store.act([{ do: 'channels.route', ids: ['t0'], to: i % 2 ? 'mix' : 'b1' }]);
      store.act([{ do: 'faders.set', levels: [{ id: 'b0', level: -(i % 6) }] }]);
      await new Promise((resolve) => setTimeout(resolve, 150));
    }
    return transport.underruns() - from;
  });
  const moves = await page.evaluate(() => window.isotaxis.transport.probe('fader', 60));
  const locates = await page.evaluate(() => window.isotaxis.transport.probe('locate', 30));
  await page.close();
  const of = (list) => ({ median: Math.round(quantile(list, 0.5)), p95: Math.round(quantile(list, 0.95)) });
  return {
    underruns,
    underrunsWhileRerouting: rerouting,
    coresBusyInAll: busy,
    mixWorkerCores: mixing,
    faderToRingMs: of(moves),
    locateMs: of(locates)
  };
}

try {
  const result = { 'one track': await measured(browser, await desk(1)), [`${TRACKS} tracks`]: await measured(browser, await desk(TRACKS)) };
  console.log(JSON.stringify(result, null, 1));
} finally {
  await end();
}

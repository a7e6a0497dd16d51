import { serve } from './serve.mjs';
const { url, browser, post, end } = await serve(4871);
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: process.argv[2] ?? 'light' });
  page.on('console', (m) => ['error', 'warning'].includes(m.type()) && console.log(m.text()));
  page.on('pageerror', (e) => console.log('ERR', e.message));
  await page.goto(url + '/s/ferry-shed-finished/map');
  await page.locator('[data-node]').first().waitFor();
  await page.waitForTimeout(600);
  await page.screenshot({ path: '/tmp/w/m1.png' });
  await page.getByRole('button', { name: 'Cues' }).click();
  await page.locator('[data-node=t22]').hover();
  await page.waitForTimeout(600);
  await page.screenshot({ path: '/tmp/w/m2.png' });
  const media = (await (await fetch(`${url}/api/sessions/ferry-shed`)).json()).document.media.find(({ channels }) => channels === 1);
  const { id } = await post('/api/sessions', { name: '100 tracks' });
  const act = (...commands) => post(`/api/sessions/${id}/commands`, { base: 0, id: crypto.randomUUID(), commands });
  const fam = ['DRUMS','PERC','BASS','GUITARS','KEYS','STRINGS','BRASS','VOX','CHOIR','FX'];
  const tracks = Array.from({ length: 100 }, (_, i) => ({ id: `t${i}`, name: `${fam[i % 10][0]}${fam[i % 10].slice(1).toLowerCase()} mic ${Math.floor(i / 10) + 1}`, colour: i % 10, media }));
  await act({ do: 'tracks.add', tracks });
  await act(...fam.map((name, f) => ({ do: 'buses.add', id: `b${f}`, name, colour: f, members: tracks.filter((_, i) => i % 10 === f).map((t) => t.id) })),
    { do: 'buses.add', id: 'voices', name: 'VOICES', colour: 7, members: ['b7', 'b8'] });
  await act(...['Plate', 'Hall', 'Slap echo', 'Room'].map((name, r) => ({ do: 'returns.add', id: `r${r}`, name, colour: r + 3, sources: tracks.filter((_, i) => (i * 7 + r) % 3 === 0).map((t) => t.id) })),
    { do: 'returns.add', id: 'rv', name: 'Vox room', colour: 7, outputId: 'voices', sources: tracks.filter((_, i) => i % 10 === 7).map((t) => t.id) },
    { do: 'sends.set', sends: tracks.map((t, i) => ({ source: t.id, target: `r${[0,1,2].find((r) => (i * 7 + r) % 3 === 0)}`, level: -12 })) });
  await page.goto(`${url}/s/${id}/map`);
  await page.locator('[data-node]').first().waitFor();
  await page.waitForTimeout(600);
  await page.screenshot({ path: '/tmp/w/m3.png' });
  await page.locator('[data-node=b3]').click();
  await page.waitForTimeout(600);
  await page.screenshot({ path: '/tmp/w/m4.png' });
} finally { await end(); }

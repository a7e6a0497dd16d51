// Makes docs/screenshots anew from the demo: a server of its own on a fresh data directory, Debian's Chromium, 1280 × 800.
import { serve } from './serve.mjs';

const { url, browser, end } = await serve();
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

  // The front door, as who comes first sees it.
  await page.goto(url);
  await page.locator('[data-session]').first().waitFor();
  await page.waitForTimeout(500);
  await shot('sessions');
  // Taking stock: the heap, the preview of what the rules make of it, the same session sorted.
  await page.goto(`${url}/s/ferry-shed/roster`);
  await page.locator('[data-row]').first().waitFor();
  await page.waitForTimeout(1500);
  await shot('roster-raw');
  await page.getByRole('button', { name: 'Sort by rule…' }).click();
  await page.waitForTimeout(600);
  await shot('sort-preview');
  await page.getByRole('button', { name: 'Sort 21 tracks' }).click();
  await page.waitForTimeout(800);
  await page.locator('[data-focus]', { hasText: 'Double seconds L' }).click();
  await page.locator('[data-focus]', { hasText: 'Pan tenor R' }).click({ modifiers: ['Shift'] });
  await page.waitForTimeout(500);
  await shot('roster-sorted');

  await open('ledger');
  await page.getByRole('button', { name: 'Tenor pan L', exact: true }).click();
  await page.getByRole('button', { name: 'Tenor pan R', exact: true }).click({ modifiers: ['Shift'] });
  await playAt(30);
  await page.getByRole('button', { name: 'Night colours' }).click();
  await page.getByRole('button', { name: 'Solo PANS', exact: true }).click();
  await page.waitForTimeout(1500);
  await shot('ledger-night');
  await page.getByRole('button', { name: 'Solo PANS', exact: true }).click();
  await page.getByRole('button', { name: 'Day colours' }).click();
  await page.evaluate(() => document.querySelector('.scroll').scrollTo(0, 9999));
  await page.getByRole('button', { name: 'Lead voice', exact: true }).click();
  await page.waitForTimeout(800);
  await shot('side-sheet');
  await page.keyboard.press('Space');
  await page.evaluate(() => document.querySelector('.scroll').scrollTo(0, 0));

  // The finished routing: the whole tree with its returns, one of them opened, the Map with a trace, a player's page.
  await page.goto(`${url}/s/ferry-shed-finished/ledger`);
  await page.getByRole('button', { name: 'Play', exact: true }).waitFor();
  await page.keyboard.press('v');
  // While the choir's hall opens and the lead's echo is thrown: what lanes play is underlined.
  await playAt(22.4);
  // What would move with it is shaded.
  await page.getByRole('button', { name: 'Fader of Surdo low', exact: true }).hover();
  await page.waitForTimeout(200);
  await shot('ledger-full');
  await page
    .getByRole('columnheader', { name: /Room pans/ })
    .getByRole('button')
    .click();
  await page.getByRole('menuitem', { name: 'Open as a lane of faders' }).click();
  await page.evaluate(() => document.querySelector('.scroll').scrollTo(0, 330));
  await page.waitForTimeout(700);
  await shot('ledger-lane');
  await page.keyboard.press('Space');
  await page.keyboard.press('v');
  await page.goto(`${url}/s/ferry-shed-finished/links`);
  await page.locator('[data-row]').first().waitFor();
  await page.locator('.group .title', { hasText: 'Hand drums' }).click();
  await page.locator('.row .level [aria-label^="Fader of Surdo low"]').hover();
  await page.waitForTimeout(500);
  await shot('links');
  await page.goto(`${url}/s/ferry-shed-finished/map`);
  await page.locator('[data-node]').first().waitFor();
  await page.waitForTimeout(700);
  await shot('map');
  await page.locator('[data-node=t22]').click();
  await page.mouse.move(900, 640);
  await page.waitForTimeout(700);
  await shot('map-trace');
  // The Timeline: a throw's points under the lead voice while a choir's hall opens; and, half-way, bleed found.
  const lane = (name) => page.locator('[data-row]', { has: page.getByRole('button', { name, exact: true }) }).locator('[data-lane]');
  await page.goto(`${url}/s/ferry-shed-finished/timeline`);
  await lane('Surdo low').waitFor();
  await page.waitForTimeout(1500);
  await page.evaluate(() => window.isotaxis.transport.locate(24.2 * 48000));
  await page
    .getByRole('complementary', { name: 'Clip' })
    .getByRole('button', { name: /^Lead voice send to Echo/ })
    .click();
  await page.evaluate(() => document.querySelector('.scroll').scrollBy(0, 420));
  await page.waitForTimeout(700);
  await shot('timeline');
  await page.goto(`${url}/s/ferry-shed-halfway/timeline`);
  await lane('Surdo low').waitFor();
  await page.evaluate(() => document.querySelector('.scroll').scrollTo(0, 820));
  await page.getByRole('button', { name: 'Choir S', exact: true }).click();
  await page.keyboard.press('b');
  await page.getByText('Bleed found · 4').waitFor();
  await page.waitForTimeout(1200);
  await shot('bleed');
  const token = 'a-players-page-for-a-picture';
  const post = async (where, body) => await (await fetch(url + where, { method: 'POST', body: JSON.stringify(body) })).json();
  await post('/api/sessions/ferry-shed-finished/commands', {
    base: 0,
    id: crypto.randomUUID(),
    commands: [{ do: 'cues.share', id: 'singer', token }]
  });
  const phone = await browser.newPage({ viewport: { width: 390, height: 780 }, colorScheme: 'light' });
  await phone.goto(`${url}/cue/${token}`);
  await phone.getByRole('heading').waitFor();
  await phone.waitForTimeout(500);
  await phone.screenshot({ path: 'docs/screenshots/player.png' });
  await phone.close();
  await open('ledger');
  await page
    .getByRole('columnheader', { name: /Shed room/ })
    .getByRole('button')
    .click();
  await page.getByRole('menuitem', { name: 'Twin into buses…' }).click();
  await page.waitForTimeout(500);
  await shot('twin-preview');
  await page.keyboard.press('Escape');

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
    .getByLabel('Audio files to import')
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

  // The version sheet while a version is heard and the next waits for the bar; two jobs compared; their delivery sheet; and what is said
  // where the stems are not sound.
  await page.goto(`${url}/s/ferry-shed-finished/prints`);
  await page.getByRole('button', { name: 'chained stems' }).click();
  await page.getByRole('button', { name: /^Print 6 stems/ }).click();
  await page.getByRole('button', { name: /adds up/ }).waitFor({ timeout: 120_000 });
  const done = page.url();
  await page.evaluate(() => {
    const { store } = window.isotaxis;
    store.act([{ do: 'faders.set', levels: [{ id: 'voices', level: 1.5 }] }]);
    store.act([{ do: 'versions.set', id: 'voices-only', stems: { drums: '-inf', pans: '-inf', brass: -12, shed: '-inf' } }]);
  });
  await page.getByText('Saved', { exact: true }).waitFor();
  await page.getByRole('button', { name: /^Print 6 stems/ }).click();
  await page.getByRole('gridcell', { name: /^PANS in Voices only/ }).click();
  await page.keyboard.press('Space');
  await page
    .getByRole('gridcell', { name: /^BRASS in Voices/ })
    .first()
    .click({ modifiers: ['Shift'] });
  await page.getByRole('gridcell', { name: /^VOICES in Voices \+1/ }).click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: 'Hear Voices +1' }).click();
  await page.waitForTimeout(1500);
  await page.getByLabel('on the bar').check();
  await page.getByRole('button', { name: 'Hear Instrumental' }).click();
  await shot('prints');
  await page.evaluate(() => window.isotaxis.transport.stop());
  await page
    .getByRole('button', { name: /adds up/ })
    .nth(1)
    .waitFor({ timeout: 120_000 });
  await page.goto(done);
  await page.getByRole('button', { name: 'Open Ferry Shed – finished - mix.wav' }).click();
  await page.getByLabel('Compare with').selectOption({ index: 1 });
  await page.getByRole('button', { name: 'Hear Ferry Shed – finished - mix.wav' }).click();
  await page.waitForTimeout(2500);
  await page.getByRole('button', { name: 'B', exact: true }).click();
  await page.locator('.jobs').evaluate((jobs) => jobs.scrollIntoView());
  await shot('prints-compared');
  const sheet = await browser.newPage({ viewport: { width: 860, height: 1200 } });
  await sheet.goto(url + (await page.getByRole('link', { name: 'Sheet' }).first().getAttribute('href')));
  await sheet.screenshot({ path: 'docs/screenshots/delivery.png' });
  await sheet.close();
} finally {
  await end();
}

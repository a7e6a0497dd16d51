// The command line as a shell sees it: files in, a package, a print, exit status and messages.
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { lockDirectory } from '$lib/server/lock';
import { openMediaStore } from '$lib/server/media';
import { createSessions } from '$lib/server/sessions';
import { migratedDatabase } from '../tests/database';
import { main } from './main';

let folder = '';
const isotaxis = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync('node', ['cli/isotaxis.mjs', ...args], { encoding: 'utf8', timeout: 120_000 });
  return { status, stdout, stderr };
};
const sox = (name: string, ...args: string[]) =>
  execFileSync('sox', ['-R', '-n', ...args.slice(0, 4), path.join(folder, 'in', name), ...args.slice(4)]);

beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-cli-'));
  mkdirSync(path.join(folder, 'in'));
  sox('a 10.wav', '-r', '48000', '-b', '24', 'synth', '1', 'sine', '440', 'vol', '0.1');
  sox('a 9.flac', '-r', '48000', '-b', '16', 'synth', '0.5', 'noise', 'vol', '0.1');
  sox('b.aiff', '-r', '44100', '-b', '16', 'synth', '0.5', 'sine', '200', 'vol', '0.1');
  writeFileSync(path.join(folder, 'in', 'words.wav'), 'not audio');
});
afterAll(() => rmSync(folder, { recursive: true }));

it('makes a package, says what it holds, and prints it twice the same', () => {
  const zip = path.join(folder, 'session.zip');
  const first = isotaxis('import', path.join(folder, 'in'), '--out', zip, '--rate', '48000');
  expect(first).toMatchObject({ status: 1, stdout: `${zip}: 2 tracks at 48000 Hz, 2 files refused\n` });
  expect(first.stderr).toMatch(/b\.aiff: The file has 44100 Hz.*\n.*words\.wav: This is not an audio file/);
  const second = isotaxis('import', path.join(folder, 'in'), '--out', zip, '--rate', '48000', '--convert', '--json');
  expect(JSON.parse(second.stdout)).toMatchObject({ tracks: 3, rate: 48000, refused: [{ file: 'words.wav', code: 'not-audio' }] });
  const info = isotaxis('info', zip, '--json');
  expect(info.status).toBe(0);
  expect(JSON.parse(info.stdout)).toMatchObject({ tracks: 3, recordings: 3, frames: 48000 });
  expect(isotaxis('info', zip).stdout).toMatch(/in: 3 tracks[^]*a 9 [^]*a 10 [^]*b /);
  const prints = ['one', 'two'].map((name) => {
    const print = isotaxis('print', zip, '--out', path.join(folder, name), '--format', 'wav16', '--json');
    expect(print.status).toBe(0);
    const {
      folder: where,
      files,
      nulls
    } = JSON.parse(print.stdout) as { folder: string; files: { name: string; kind: string; frames: number }[]; nulls: object };
    expect([files.length, files[0].kind, nulls]).toEqual([1, 'mix', { stems: null, chain: null }]);
    return { ...files[0], file: path.join(where, files[0].name) };
  });
  // A range by its name; one that is not there is said.
  const commands = path.join(folder, 'commands.json');
  writeFileSync(commands, JSON.stringify([{ do: 'ranges.set', id: 'r', name: 'Verse', from: 4800, to: 14_400 }]));
  const ranged = path.join(folder, 'ranged.zip');
  expect(isotaxis('apply', zip, commands, '--out', ranged).status).toBe(0);
  const verse = isotaxis('print', ranged, '--out', path.join(folder, 'verse'), '--range', 'verse', '--tail', 'none', '--json');
  expect(JSON.parse(verse.stdout)).toMatchObject({ files: [{ frames: 9600 }] });
  expect(isotaxis('print', ranged, '--out', folder, '--range', 'Chorus').stderr).toContain(
    'There is no range called “Chorus”. There are “Verse”.'
  );
  // The date stands in the file: all else is the same.
  const data = prints.map(({ file }) => execFileSync('sox', [file, '-t', 'raw', '-'], { maxBuffer: 2 ** 26 }));
  expect(data[0].equals(data[1])).toBe(true);
  expect(execFileSync('soxi', ['-b', prints[0].file], { encoding: 'utf8' }).trim()).toBe('16');
  expect(
    execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'stream=duration_ts', '-of', 'csv=p=0', prints[0].file], {
      encoding: 'utf8'
    }).trim()
  ).toBe(String(prints[0].frames));
}, 60_000);

it('has for each command the options that its help gives, and no others', async () => {
  const { stdout } = isotaxis('--help');
  const helped = [...stdout.matchAll(/^ {2}isotaxis (\w+)((?:.*\n)(?: {6}\[.*\n)*)/gm)].map(([, name, text]) => ({
    name,
    own: new Set([...text.matchAll(/--(\w+)/g)].map(([, option]) => option))
  }));
  expect(helped.map(({ name }) => name)).toEqual(['import', 'info', 'sort', 'apply', 'trace', 'print', 'backup', 'restore']);
  const all = new Set(helped.flatMap(({ own }) => [...own]));
  const values: Record<string, string> = { format: 'wav24', tiers: '2', rate: '48000', at: '5', tail: 'none' };
  const taking = /--(out|rate|name|format|versions|channels|range|tail|rules|tiers|to|at) [A-Za-z1]/g;
  const takers = new Set([...stdout.matchAll(taking)].map(([, option]) => option));
  const dir = path.join(folder, 'options');
  const asked = helped.flatMap(({ name, own }) => [...all].map((option) => ({ name, option, own: own.has(option) })));
  const written = vi.spyOn(process.stderr, 'write').mockReturnValue(true);
  const wrong: string[] = [];
  for (const { name, option, own } of asked) {
    if (own && (name === 'backup' || name === 'restore')) continue;
    // What it is given is not there: an option that is its own gets as far as that.
    const given = [path.join(dir, 'gone'), ...(['apply', 'trace'].includes(name) ? ['gone'] : [])];
    const out = option !== 'out' && helped.find((each) => each.name === name)!.own.has('out') ? ['--out', path.join(dir, 'o')] : [];
    const args = [name, ...given, `--${option}`, ...(takers.has(option) ? [values[option] ?? 'x'] : []), ...out];
    if ((await main(args, '')) !== (own ? 1 : 2)) wrong.push(args.join(' '));
  }
  written.mockRestore();
  expect(wrong).toEqual([]);
});

it('takes a name as it is written before one in another case, and ids', () => {
  const zip = path.join(folder, 'named.zip');
  isotaxis('import', path.join(folder, 'in'), '--out', zip, '--rate', '48000', '--convert');
  const commands = path.join(folder, 'named.json');
  const buses = ['Vox', 'VOX', 'x, y'].map((name, i) => ({ do: 'buses.add', id: `bus${i}`, name, members: [] }));
  const versions = ['Radio', 'radio', 'Other'].map((name, i) => ({ do: 'versions.add', id: `v${i}`, name }));
  writeFileSync(commands, JSON.stringify([...buses, ...versions]));
  const named = path.join(folder, 'named2.zip');
  expect(isotaxis('apply', zip, commands, '--out', named)).toMatchObject({ status: 0, stderr: '' });
  const printed = (...args: string[]) => {
    const out = path.join(folder, `named-${args.join('-').replace(/\W+/g, '_')}`);
    const { stdout, stderr } = isotaxis('print', named, '--out', out, '--tail', 'none', '--json', ...args);
    return stdout ? (JSON.parse(stdout) as { files: { of: string }[] }).files.map(({ of }) => of) : [stderr];
  };
  expect(printed('--channels', 'VOX', '--versions', 'radio,v2').sort()).toEqual(['Other', 'VOX', 'radio']);
  expect(printed('--channels', 'vox,bus2')).toEqual(['Vox', 'VOX', 'x, y']);
  expect(printed('--channels', 'X, Y')).toEqual(['x, y']);
  expect(printed('--versions', 'v9')[0]).toContain('no version called “v9”');
  expect(isotaxis('trace', named, 'VOX').status).toBe(0);
  expect(isotaxis('trace', named, 'vox').stderr).toContain('Give the id of one: bus0, bus1');
});

it('says in words and in its exit status what is wrong, and leaves nothing half', () => {
  expect(isotaxis('frobnicate')).toMatchObject({ status: 2, stderr: expect.stringContaining('no command “frobnicate”') as string });
  expect(isotaxis('print', 'x.zip', '--out', folder, '--format', 'mp3').status).toBe(2);
  expect(isotaxis('import', path.join(folder, 'in')).stderr).toContain('--out is missing');
  expect(isotaxis('info', path.join(folder, 'in', 'words.wav'))).toMatchObject({ status: 1, stdout: '' });
  expect(isotaxis('info', path.join(folder, 'nowhere.zip')).status).toBe(1);
  mkdirSync(path.join(folder, 'bad'));
  writeFileSync(path.join(folder, 'bad', 'x.wav'), 'no');
  expect(isotaxis('import', path.join(folder, 'bad'), '--out', path.join(folder, 'none.zip')).status).toBe(1);
  expect(readdirSync(folder).filter((name) => name.startsWith('none'))).toEqual([]);
  expect(isotaxis('--help').stdout).toContain('isotaxis print');
}, 60_000);

it('applies commands to a package, all or nothing, links and VCAs included', () => {
  const zip = path.join(folder, 'applied.zip');
  const list = (name: string, commands: unknown) => {
    writeFileSync(path.join(folder, name), typeof commands === 'string' ? commands : JSON.stringify(commands));
    return path.join(folder, name);
  };
  const grouped = [
    { do: 'vcas.add', id: 'v', name: 'ALL', members: ['t1', 't2', 't3'] },
    { do: 'faders.set', levels: [{ id: 'v', level: -3 }] },
    { do: 'links.add', id: 'l', name: 'Two', badge: 'two', members: ['t1', 't2'], attributes: ['level'] },
    { do: 'faders.move', ids: ['t1'], by: -2 }
  ];
  const done = isotaxis('apply', path.join(folder, 'session.zip'), list('good.json', grouped), '--out', zip, '--json');
  expect(done).toMatchObject({ status: 0, stderr: '' });
  expect(JSON.parse(done.stdout)).toMatchObject({
    commands: 4,
    labels: [expect.anything(), expect.anything(), expect.anything(), 'Fader of a 9 by −2.0 dB, and 1 linked']
  });
  const said = isotaxis('info', zip).stdout;
  expect(said).toMatch(/ALL +−3.0 dB {2}VCA: a 9, a 10, b\n/);
  expect(said).toMatch(/a 10 +−2.0 dB {2}−5.0 dB with ALL\n/);
  expect(said).toMatch(/ b +0.0 dB {2}−3.0 dB with ALL\n/);
  expect(said).toContain('Two (two): level: a 9, a 10');
  const none = path.join(folder, 'none-applied.zip');
  const wrong = [grouped[0], { do: 'vcas.members', id: 'v', add: ['v'] }, grouped[3]];
  for (const [commands, words] of [
    [wrong, 'Command 2 of 3, vcas.members: A VCA cannot hold itself: ALL → ALL. Leave ALL out. Nothing was written.'],
    [[grouped[0], null], 'Command 2 of 2: A command says what it does as text, in “do”. Nothing was written.'],
    ['[{]', 'is not JSON'],
    [{ do: 'faders.set' }, 'holds no list of commands']
  ] as const)
    expect(isotaxis('apply', path.join(folder, 'session.zip'), list('wrong.json', commands), '--out', none)).toMatchObject({
      status: 1,
      stderr: expect.stringContaining(words) as string
    });
  expect(readdirSync(folder).filter((name) => name.startsWith('none'))).toEqual([]);
}, 60_000);

it('sorts a package by rule, by rules of one’s own, and says what no rule took', () => {
  const heap = path.join(folder, 'heap');
  mkdirSync(heap);
  for (const [i, name] of ['kick_03.wav', 'AUD_0007_take3.wav', 'ldvox_t7.wav', 'chr_S.wav'].entries())
    execFileSync('sox', [
      '-R',
      '-n',
      '-r',
      '48000',
      '-b',
      '24',
      path.join(heap, name),
      'synth',
      '0.2',
      'sine',
      String(300 + i),
      'vol',
      '0.2'
    ]);
  const zip = path.join(folder, 'heap.zip');
  isotaxis('import', heap, '--out', zip);
  const out = path.join(folder, 'sorted.zip');
  const sorted = isotaxis('sort', zip, '--out', out);
  expect(sorted).toMatchObject({ status: 0, stderr: '' });
  expect(sorted.stdout).toContain('3 of 4 tracks sorted by rule.\nNo rule took: AUD_0007_take3.wav\n');
  expect(isotaxis('info', out).stdout).toMatch(
    /MIX[^]*AUD_0007_take3[^]* {4}DRUMS[^]* {6}KICK[^]* {8}Kick[^]*VOICES[^]*CHOIR[^]*Choir S[^]*LEAD[^]*Lead voice/
  );
  expect(isotaxis('sort', zip, '--out', out)).toMatchObject({ status: 1, stderr: expect.stringContaining('is there already') as string });

  const rules = path.join(folder, 'rules.json');
  const family = { name: 'ALL', section: '', stem: '', colour: 2.5 };
  const rule = { id: 'r', words: '/^(kick|aud)/i', role: '', family: 'ALL', bus: '', colour: null, name: 'X {n}', pan: 0, sends: 'Hall' };
  writeFileSync(rules, JSON.stringify({ families: [family], rules: [rule] }));
  const own = isotaxis('sort', zip, '--out', path.join(folder, 'own.zip'), '--rules', rules, '--tiers', '1', '--json');
  expect(JSON.parse(own.stdout)).toMatchObject({ tracks: 4, sorted: 2, unmatched: ['chr_S.wav', 'ldvox_t7.wav'] });
  writeFileSync(rules, JSON.stringify({ families: [family], rules: [{ ...rule, words: '/a(/' }] }));
  expect(isotaxis('sort', zip, '--out', path.join(folder, 'x.zip'), '--rules', rules)).toMatchObject({
    status: 1,
    stderr: 'isotaxis: Rule 1, “/a(/”, at letter 3: missing closing ): a(.\n'
  });
  writeFileSync(rules, '{');
  expect(isotaxis('sort', zip, '--out', path.join(folder, 'x.zip'), '--rules', rules).stderr).toContain('is not JSON');
});

it('backs everything up and restores it, on data that nobody else uses', async () => {
  const here = path.join(folder, 'data');
  const there = path.join(folder, 'other');
  const on = (data: string, ...args: string[]) => {
    const { status, stdout, stderr } = spawnSync('node', ['cli/isotaxis.mjs', ...args], {
      ...{ encoding: 'utf8', timeout: 120_000, env: { ...process.env, ISOTAXIS_DATA: data, DATABASE_URL: '' } }
    });
    return { status, stdout, stderr };
  };
  const database = await migratedDatabase(path.join(here, 'database'));
  const media = await openMediaStore(here);
  const file = readFileSync(path.join(folder, 'in', 'a 10.wav'));
  const added = await media.add('a 10.wav', new Blob([file]).stream(), 48000, false);
  if (!added.ok) throw new Error(added.error.message);
  const sessions = createSessions(database);
  await sessions.create('one', { name: 'One' });
  const track = { do: 'tracks.add' as const, tracks: [{ id: 't', name: 'T', colour: 0, media: added.value.media as never }] };
  expect((await sessions.carryOut('one', { base: 0, id: '1', commands: [track] })).ok).toBe(true);
  await media.close();
  await database.close();

  const backup = path.join(folder, 'all.zip');
  const release = await lockDirectory(here);
  expect(on(here, 'backup', backup)).toMatchObject({
    status: 1,
    stderr: expect.stringMatching(/Another Isotaxis .* is using .*data/) as string
  });
  await release();
  expect(on(here, 'backup', backup, '--json').stdout).toContain(`"file":"${backup}"`);
  expect(on(there, 'restore', backup)).toMatchObject({
    status: 0,
    stdout: expect.stringContaining('1 sessions, 1 recordings, 0 prints') as string
  });
  const { sha256 } = added.value.media;
  expect(readFileSync(path.join(there, 'media', sha256.slice(0, 2), `${sha256}.wav`)).equals(file)).toBe(true);
  // Cut short, and not there.
  writeFileSync(path.join(folder, 'cut.zip'), readFileSync(backup).subarray(0, 2000));
  expect(on(there, 'restore', path.join(folder, 'cut.zip'))).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('cut short') as string
  });
}, 60_000);

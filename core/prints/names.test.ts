// Names of printed files, and what an order for them may be.
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { planBatch } from '../commands/plan.ts';
import type { Command } from '../commands/index.ts';
import { dithered, nullBar } from './bars.ts';
import { fileNames, unknownTokens } from './names.ts';
import { plannedFiles, readOrder, type PlannedFile } from './order.ts';
import { remains, versionWords } from './words.ts';

const desk = () =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a' }, { id: 'b' }, { id: 'rests' }]),
    { do: 'buses.add', id: 's', name: 'STEM/1', members: ['a'] },
    { do: 'buses.add', id: 't', name: 'mix', members: ['b'] },
    { do: 'chain.add', id: 'last', name: 'LAST' },
    { do: 'inserts.add', id: 'lim', channelId: 'last', type: 'limiter' },
    { do: 'inserts.add', id: 'eq', channelId: 'a', type: 'eq' },
    { do: 'rests.set', ids: ['rests'], on: true },
    { do: 'stems.set', ids: ['s', 't'], on: true }
  );
const named = (given: object, files?: PlannedFile[]) => {
  const order = readOrder(given);
  if (!order.ok) throw new Error(order.error.message);
  const planned = plannedFiles(desk(), order.value);
  if (!planned.ok) throw new Error(planned.error.message);
  return fileNames(desk(), order.value, files ?? planned.value, '2026-11-27');
};
const ALL = { files: [{ kind: 'stem' }, { kind: 'mix' }] };

describe('names', () => {
  it('follow the pattern, in any format and rate', () => {
    expect(named({}).names).toEqual(['Test - mix.wav']);
    expect(named({ format: 'flac24', rate: 44_100, names: '{date} {number} {kind} {depth} {rate}' }).names).toEqual([
      '2026-11-27 01 mix 24 44_1k.flac'
    ]);
    expect(unknownTokens('{session} {nobody}')).toEqual(['nobody']);
  });
  it('that no file system takes are changed, those that clash are told apart, whatever their case; and it is said', () => {
    const { names, notes } = named(ALL);
    expect(names).toEqual(['Test - STEM-1.wav', 'Test - mix (stem).wav', 'Test - mix (mix).wav']);
    expect(notes.join(' ')).toMatch(/“Test - STEM\/1” is written as “Test - STEM-1”.*2 files would be called “Test - mix”/);
    expect(named({ ...ALL, names: 'X' }).names).toEqual(['X (stem).wav', 'X (stem) 2.wav', 'X (mix).wav']);
    expect(named({ names: 'CON' }).names).toEqual(['CON-.wav']);
    expect(named({ names: '..' }).names).toEqual(['print.wav']);
    const long = named({ names: 'ä'.repeat(200) }).names[0];
    expect(long.length).toBeLessThan(190);
  });
  it('say the range where there are several', () => {
    const ranges = [
      { from: 0, to: 10 },
      { from: 20, to: 30, name: 'Turn' }
    ];
    expect(named({ ranges }).names).toEqual(['Test - mix part 1.wav', 'Test - mix Turn.wav']);
    expect(named({ ranges: ranges.slice(0, 1), names: '{name} {range}' }).names).toEqual(['mix 0-10.wav']);
  });
});

describe('an order', () => {
  it.each([
    [{ files: [{ kind: 'bird' }] }, /files/],
    [{ files: 'all' }, /files/],
    [{ tail: -1 }, /tail/],
    [{ tail: 'long' }, /tail/],
    [{ rate: 1 }, /rate/],
    [{ format: 'mp3' }, /format/],
    [{ ranges: [{ from: 1.5, to: 3 }] }, /from/],
    [{ nothing: 1 }, /unknown/i],
    [null, /cannot be printed/]
  ])('that is %j is refused in words', (given, words) => {
    expect(readOrder(given)).toMatchObject({ ok: false, error: { message: expect.stringMatching(words) as string } });
  });
  it.each([
    [{ kind: 'stem', id: 'a' }, 'bad-arguments', /Track a is not a stem/],
    [{ kind: 'raw', id: 'rests' }, 'silent', /resting/],
    [{ kind: 'raw', id: 'gone' }, 'not-found', /no longer/],
    [{ kind: 'version' }, 'empty', /no versions yet/],
    [{ kind: 'cue' }, 'empty', /no cue/]
  ])('of %j says what is the matter', (file, code, words) => {
    const order = readOrder({ files: [file] });
    if (!order.ok) throw new Error(order.error.message);
    expect(plannedFiles(desk(), order.value)).toMatchObject({
      ok: false,
      error: { code, message: expect.stringMatching(words) as string }
    });
  });
  it('has the bars of the handbook: 24 bit, 8 and 32 stems', () => {
    expect(20 * Math.log10(nullBar('wav24', 8, false, 1))).toBeCloseTo(-124.5, 1);
    expect(20 * Math.log10(nullBar('wav24', 32, false, 1))).toBeCloseTo(-113.9, 1);
    expect([dithered('wav16', null), dithered('wav16', false), dithered('wav24', null), dithered('wav32f', true)]).toEqual([
      true,
      false,
      false,
      false
    ]);
  });
});

describe('a range', () => {
  it.each([
    [{ from: 5, to: 5 }, 'empty', /holds nothing/],
    [{ from: 48_000, to: 50_000 }, 'empty', /after the last clip/],
    [{ from: 0, to: 1e15 }, 'bad-arguments', /more than 10 minutes after the last clip/]
  ])('%j is refused in words', (range, code, words) => {
    const order = readOrder({ ranges: [range] });
    if (!order.ok) throw new Error(order.error.message);
    expect(plannedFiles(desk(), order.value)).toMatchObject({
      ok: false,
      error: { code, message: expect.stringMatching(words) as string }
    });
  });
});

describe('versions', () => {
  const refused = (command: Command) => {
    const planned = planBatch(desk(), [command]);
    return planned.ok ? null : planned.error.code;
  };
  it('name only what they can', () => {
    const add = { do: 'versions.add' as const, id: 'v', name: 'V' };
    expect(refused({ ...add, stems: { s: -3 }, inserts: { lim: false }, channels: [{ id: 'a', by: '-inf' }] })).toBeNull();
    expect(refused({ ...add, stems: { a: 0 } })).toBe('not-a-bus');
    expect(refused({ ...add, stems: { gone: 0 } })).toBe('not-found');
    expect(refused({ ...add, stems: { s: 40 } })).toBe('bad-arguments');
    expect(refused({ ...add, inserts: { eq: false } })).toBe('not-a-member');
    expect(refused({ ...add, channels: [{ id: 'last', by: 1 }] })).toBe('not-a-member');
    expect(refused({ ...add, channels: [{ id: 'a' }, { id: 'a' }] })).toBe('bad-arguments');
    expect(refused({ do: 'versions.remove', ids: ['v'] })).toBe('not-found');
    expect(refused({ do: 'fades.set' })).toBe('bad-arguments');
    expect(refused({ do: 'stems.set', ids: ['last'], on: true })).toBe('mix-bus');
    expect(refused({ do: 'stems.set', ids: ['a'], on: true })).toBe('not-a-bus');
  });
  it('are said in words, with what goes on sounding of what is out', () => {
    const session = carryOut(
      desk(),
      { do: 'returns.add', id: 'hall', name: 'Hall', outputId: 't', sources: ['a'] },
      { do: 'sends.set', sends: [{ source: 'a', target: 'hall', level: -6 }] },
      {
        do: 'versions.add',
        id: 'v',
        name: 'V',
        stems: { s: '-inf', t: 1.5 },
        inserts: { lim: false },
        fader: false,
        fades: false,
        channels: [{ id: 'b', by: -2 }]
      }
    );
    const version = session.version.get('v')!;
    expect(versionWords(session, version)).toEqual([
      'without STEM/1',
      'mix +1.5 dB',
      'the limiter on LAST off',
      'MIX fader at 0 dB',
      'no fades',
      'Track b −2.0 dB'
    ]);
    expect(remains(session, version)).toEqual([{ stem: 's', inside: ['t'] }]);
    carryOut(session, { do: 'versions.set', id: 'v', channels: [{ id: 'a', mute: true }] });
    expect(remains(session, session.version.get('v')!)).toEqual([]);
  });
});

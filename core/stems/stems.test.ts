// Stems on random desks: sound ones are judged sound; each rule broken alone is found, said with its way, and mended by its first repair.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import type { Session } from '../session/entities.ts';
import { repairsOf } from './repairs.ts';
import { sharesOf } from './shares.ts';
import { judgeStems, type FlawCode } from './soundness.ts';
import { suggestedStems } from './suggest.ts';

const STEMS = ['s0', 's1', 's2'] as const;

/** Three stems of some tracks, some of them in buses of their own, each with a return; a chain of two stages. */
const sound = fc
  .record({
    homes: fc.array(fc.constantFrom(...STEMS), { minLength: 4, maxLength: 8 }),
    nested: fc.array(fc.boolean(), { minLength: 3, maxLength: 3 }),
    silent: fc.boolean()
  })
  .map(({ homes, nested, silent }) => () => {
    const tracks = [...STEMS, ...homes].map((home, i) => ({ id: `t${i}`, home }));
    const session = carryOut(
      emptyDesk(),
      trackCommand(tracks),
      ...STEMS.map((id, i): Command => ({
        do: 'buses.add',
        id,
        name: `STEM ${i}`,
        members: tracks.filter(({ home }) => home === id).map((track) => track.id)
      })),
      ...STEMS.flatMap((id, i): Command[] => (nested[i] ? [{ do: 'buses.insert', id: `in${i}`, name: `INNER ${i}`, into: id }] : [])),
      ...STEMS.flatMap((id, i): Command[] => [
        { do: 'returns.add', id: `r${i}`, name: `Room ${i}`, outputId: id, sources: [`t${i}`] },
        { do: 'sends.set', sends: [{ source: `t${i}`, target: `r${i}`, level: -6 }] }
      ]),
      { do: 'chain.add', id: 'last', name: 'LAST' },
      { do: 'stems.set', ids: [...STEMS], on: true },
      // What cannot be heard breaks no rule.
      trackCommand([{ id: 'mute' }]),
      { do: 'channels.route', ids: ['mute'], to: 'mix' },
      silent ? { do: 'mutes.set', ids: ['mute'], on: true } : { do: 'faders.set', levels: [{ id: 'mute', level: -Infinity }] }
    );
    return session;
  });

/** Ways to break one rule each; `codes` are all that is found then. */
const BREAKS: readonly { readonly codes: readonly FlawCode[]; readonly by: readonly Command[] }[] = [
  { codes: ['stray'], by: [{ do: 'channels.route', ids: ['r0'], to: 'mix' }] },
  {
    codes: ['stray'],
    by: [
      { do: 'mutes.set', ids: ['mute'], on: false },
      { do: 'faders.set', levels: [{ id: 'mute', level: 0 }] }
    ]
  },
  { codes: ['stray'], by: [{ do: 'sends.set', sends: [{ source: 't0', target: 'mix', level: -20 }] }] },
  { codes: ['escape'], by: [{ do: 'channels.route', ids: ['s1'], pair: 1 }] },
  { codes: ['side-entry'], by: [{ do: 'channels.route', ids: ['r1'], to: 'last' }] },
  { codes: ['side-entry'], by: [{ do: 'sends.set', sends: [{ source: 's2', target: 'last', level: -9 }] }] },
  { codes: ['double'], by: [{ do: 'sends.set', sends: [{ source: 's0', target: 'r1', level: -9 }] }] },
  { codes: ['split'], by: [{ do: 'sends.set', sends: [{ source: 't0', target: 'r1', level: -9 }] }] }
];

describe('soundness', () => {
  it('holds for sound sessions, and finds each rule broken alone, with a way that exists', () => {
    fc.assert(
      fc.property(sound, fc.constantFrom(...BREAKS), (made, { codes, by }) => {
        const session = made();
        expect(judgeStems(session)).toMatchObject({ sound: true, whole: true, flaws: [] });
        carryOut(session, ...by);
        const judged = judgeStems(session);
        expect(judged.flaws.map(({ code }) => code)).toEqual(codes);
        expect(judged.sound).toBe(codes[0] === 'split');
        const [flaw] = judged.flaws;
        expect(flaw.way.split(' → ').length).toBeGreaterThan(1);
        // It names where it begins, or what it crosses.
        expect(flaw.text).toContain(session.channel.get(flaw.stems[0] ?? flaw.edge.from)!.name);
        const repairs = repairsOf(session, flaw, () => 'fresh');
        carryOut(session, ...repairs[0].commands);
        expect(judgeStems(session).flaws).toEqual([]);
      }),
      { numRuns: 80 }
    );
  });

  it('lets a common stem have a part of every track, and says in which versions it goes on', () => {
    const session: Session = carryOut(
      fc.sample(sound, { numRuns: 1, seed: 4 })[0](),
      { do: 'buses.add', id: 'fx', name: 'FX' },
      { do: 'returns.add', id: 'hall', name: 'Hall', outputId: 'fx', sources: ['t0', 't1'] },
      { do: 'sends.set', sends: ['t0', 't1'].map((source) => ({ source, target: 'hall', level: -12 })) }
    );
    expect(suggestedStems(session)).toEqual({ stems: [...STEMS, 'fx'], common: ['fx'] });
    carryOut(session, { do: 'stems.set', ids: ['fx'], on: true });
    const { flaws } = judgeStems(session);
    expect(flaws.map(({ code, stems, tracks }) => [code, stems, tracks])).toEqual([
      ['split', ['s0', 'fx'], ['t0']],
      ['split', ['s1', 'fx'], ['t1']]
    ]);
    expect(repairsOf(session, flaws[0], () => 'x').map(({ label }) => label)).toEqual(['Twin Hall for STEM 0', 'FX is common to all']);
    carryOut(session, { do: 'stems.set', ids: ['fx'], on: true, common: true });
    expect(judgeStems(session)).toMatchObject({ sound: true, whole: true });
    expect(sharesOf(session).get('s0')).toEqual(['fx']);
    expect(sharesOf(session).get('s2')).toEqual([]);
  });
});

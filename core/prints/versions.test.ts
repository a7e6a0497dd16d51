// Versions heard in place: what plays is what prints, at a start and after a switch; and what is usual, alike or silent among them.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, module, trackCommand } from '../../tests/oracle/rig.ts';
import { attempt, desk, farApart, files, FRAMES, moves, pcmOf, recordings, rendered, summed } from '../../tests/oracle/stemDesk.ts';
import type { Command } from '../commands/index.ts';
import { createEngine } from '../engine/engine.ts';
import { readDocument, writeDocument } from '../formats/document.ts';
import { commit, differences, fork } from '../session/changes.ts';
import type { Session, Version } from '../session/entities.ts';
import { encodeSession } from '../session/tables.ts';
import { judgeStems } from '../stems/soundness.ts';
import { inPlace, silentVersion } from './inPlace.ts';
import { keyFiles } from './chainAlone.ts';
import { onwardOf, stemSession, type Fed } from './onward.ts';
import type { PlannedFile } from './order.ts';
import { endOf } from '../session/select.ts';
import { passesOf } from './passes.ts';
import { alikes, onlyStems, usualVersions, withoutStems } from './usual.ts';

const version = fc.record({
  stems: fc.dictionary(fc.constantFrom('a', 'b', 'c', 'fx'), fc.constantFrom(3, -6, '-inf' as const), { noNullPrototype: true }),
  inserts: fc.constantFrom({}, { lim: false }, { glue: false, lim: false }),
  fader: fc.boolean(),
  fades: fc.boolean(),
  channels: fc.constantFrom([], [{ id: 't3', mute: true }], [{ id: 'room', by: -4 }])
});
const withVersion = (session: Session, fields: object) =>
  carryOut(session, { do: 'versions.add', id: 'v', name: 'V', ...fields } as Command).version.get('v')!;
const engineOf = (session: Session) => createEngine({ module, session, pcm: pcmOf(recordings), solo: true, keep: true });

describe('a version heard in place', () => {
  it('plays what is printed of it, to the bit', () => {
    fc.assert(
      fc.property(moves, version, (commands, fields) => {
        const session = attempt(desk(), commands);
        const own = withVersion(session, fields);
        const [pass] = passesOf(session, files(session, { kind: 'version', id: 'v' }));
        const [printed] = rendered(pass, pcmOf(recordings));
        const heard = inPlace(session, own);
        const engine = engineOf(heard.session);
        engine.setStems(heard.stems);
        engine.locate(0);
        const late = engine.latency('last');
        const [left, right] = [0, 1].map(() => new Float32Array(FRAMES + late));
        engine.render(left, right);
        expect(farApart([left.subarray(late), right.subarray(late)], printed)).toBe(-600);
      }),
      { numRuns: 20, seed: 32 }
    );
  });

  it('leaves the session as it was', () => {
    fc.assert(
      fc.property(moves, version, (commands, fields) => {
        const base = attempt(desk(), commands);
        const own = withVersion(base, fields);
        const before = JSON.stringify(encodeSession(base));
        const played = fork(base);
        const heard = inPlace(base, own);
        const there = differences(played, heard.session);
        commit(played, there);
        expect(differences(played, heard.session)).toEqual([]);
        commit(played, differences(played, base));
        expect(differences(played, base)).toEqual([]);
        expect(differences(base, played)).toEqual([]);
        expect(JSON.stringify(encodeSession(base))).toBe(before);
      }),
      { numRuns: 10, seed: 32 }
    );
  });
});

describe('usual versions', () => {
  const band = (): Session => {
    const session = carryOut(
      emptyDesk(),
      trackCommand(['drum', 'pan', 'alto', 'lead'].map((id) => ({ id }))),
      { do: 'roles.set', ids: ['drum'], role: 'drum' },
      { do: 'roles.set', ids: ['pan'], role: 'pan' },
      { do: 'roles.set', ids: ['alto'], role: 'choir' },
      { do: 'roles.set', ids: ['lead'], role: 'voice' },
      { do: 'buses.add', id: 'drums', name: 'DRUMS', members: ['drum'] },
      { do: 'buses.add', id: 'pans', name: 'PANS', members: ['pan'] },
      { do: 'buses.add', id: 'voices', name: 'VOICES', members: ['alto', 'lead'] },
      { do: 'buses.add', id: 'fx', name: 'FX' },
      { do: 'returns.add', id: 'hall', name: 'Hall', outputId: 'fx', sources: ['lead'] },
      { do: 'sends.set', sends: [{ source: 'lead', target: 'hall', level: -9 }] },
      { do: 'inserts.add', id: 'lim', channelId: 'mix', type: 'limiter' },
      { do: 'stems.set', ids: ['drums', 'pans', 'voices'], on: true },
      { do: 'stems.set', ids: ['fx'], on: true, common: true }
    );
    return session;
  };
  const out = (...ids: string[]) => Object.fromEntries(ids.map((id) => [id, '-inf']));

  it('take out and leave in what the tracks are, and common stems with all that feed them', () => {
    const session = band();
    const of = (name: string) => usualVersions(session).find((each) => each.name === name)!;
    expect(of('Instrumental').parts.stems).toEqual(out('voices', 'fx'));
    expect(of('Voices only').parts.stems).toEqual(out('drums', 'pans'));
    expect(of('Percussion only').parts.stems).toEqual(out('pans', 'voices', 'fx'));
    expect(of('Voices −1').parts.stems).toEqual({ voices: -1 });
    expect(of('Without lead').parts.channels).toEqual([{ id: 'lead', mute: true }]);
    expect(of('Without the last limiter').parts.inserts).toEqual({ lim: false });
    expect(usualVersions(session).every(({ fits, there }) => fits && there === null)).toBe(true);
    carryOut(session, { do: 'sends.set', sends: [{ source: 'pan', target: 'hall', level: -9 }] });
    expect(of('Instrumental').parts.stems).toEqual(out('voices'));
    expect(withoutStems(session, new Set(['voices', 'pans']))).toEqual(out('pans', 'voices', 'fx'));
    expect(onlyStems(session, new Set(['drums']))).toEqual(out('pans', 'voices', 'fx'));
    // Each made once, all of them are there; and the session can be without voices, limiter or stems.
    for (const [i, { name, parts }] of usualVersions(session).entries())
      carryOut(session, { do: 'versions.add', id: `u${i}`, name, ...parts } as Command);
    expect(usualVersions(session).map(({ there }) => there?.id)).toEqual(usualVersions(session).map((_, i) => `u${i}`));
    expect(usualVersions(emptyDesk()).map(({ fits }) => fits)).toEqual([true, ...Array(7).fill(false)]);
  });

  it('know which are the same, the mix, or silent', () => {
    const session = band();
    const made: Version[] = [
      { stems: { voices: 0 }, inserts: { lim: true } },
      { stems: out('voices') },
      { stems: { ...out('voices'), pans: 0 }, channels: [{ id: 'alto', mute: false }] },
      { stems: out('drums', 'pans', 'voices', 'fx') },
      {
        stems: out('drums', 'pans'),
        channels: [
          { id: 'voices', mute: true },
          { id: 'fx', by: '-inf' }
        ]
      }
    ].map((fields, i) => {
      carryOut(session, { do: 'versions.add', id: `v${i}`, name: `V${i}`, ...fields } as Command);
      return session.version.get(`v${i}`)!;
    });
    expect([...alikes(session)]).toEqual([
      ['v0', ['the mix']],
      ['v2', ['V1']]
    ]);
    expect(made.map((each) => silentVersion(session, each))).toEqual([false, false, false, true, true]);
    carryOut(session, { do: 'channels.route', ids: ['drum'], to: 'mix' });
    expect(silentVersion(session, made[3])).toBe(false);
    carryOut(session, { do: 'versions.order', ids: ['v2', 'v1'] });
    expect([...alikes(session)]).toEqual([
      ['v0', ['the mix']],
      ['v1', ['V2']]
    ]);
  });
});

describe('stems through the chain', () => {
  it('are the mix between them where the chain only turns up and down, as its compressors hear the whole mix', () => {
    fc.assert(
      fc.property(moves, fc.boolean(), (commands, second) => {
        const chain = ['mix', 'last'];
        const session = attempt(desk(), commands);
        // What bends, or hears for itself, would differ; and one compressor stands behind another processor.
        const gone = [...session.insert.values()].filter(
          ({ channelId, type }) => chain.includes(channelId) && type !== 'comp' && type !== 'eq'
        );
        const still: Command[] = [
          ...gone.map(({ id }): Command => ({ do: 'inserts.remove', id })),
          { do: 'fades.set', in: { frames: 0, curve: 'linear' }, out: { frames: 0, curve: 'linear' } }
        ];
        carryOut(session, ...still);
        if (second)
          carryOut(
            session,
            { do: 'inserts.add', id: 'tone', channelId: 'last', type: 'eq' },
            { do: 'inserts.set', id: 'tone', values: { 'b2.on': 1, 'b2.gain': 4 } },
            { do: 'inserts.add', id: 'knit', channelId: 'last', type: 'comp' },
            { do: 'inserts.set', id: 'knit', values: { threshold: -24, ratio: 2 } }
          );
        const wanted = files(session, { kind: 'chained' }, { kind: 'mix' });
        const [pass] = passesOf(session, wanted);
        const takes = rendered(pass, pcmOf(recordings));
        expect(farApart(summed(takes.slice(0, -1)), takes.at(-1)!)).toBeLessThan(-100);
        // Alone, without the mix among what is printed, they are the same.
        const alone = rendered(passesOf(session, wanted.slice(0, 1))[0], pcmOf(recordings));
        expect(farApart(alone[0], takes[0])).toBe(-600);
        expect(wanted[0].name).toBe('A chained, not additive');
      }),
      { numRuns: 14, seed: 32 }
    );
  });
});

describe('stems as a session', () => {
  /** Seconds. */
  const TAIL = 0.05;
  it('nulls against the mix, keys and fades included, and goes on: its stems are sound, its versions those of the mix', () => {
    fc.assert(
      fc.property(moves, (commands) => {
        const session = attempt(desk(), commands);
        carryOut(session, { do: 'versions.add', id: 'v', name: 'V', stems: { a: '-inf', b: 2 }, inserts: { lim: false } });
        const onward = onwardOf(session);
        const wanted = [...files(session, { kind: 'stem' }, { kind: 'mix' }, { kind: 'version' }), ...keyFiles(session)];
        const tailed = (of: Session, list: PlannedFile[], from: ReadonlyMap<string, Float32Array[]>) => {
          const [pass] = passesOf(of, list);
          return rendered(pass, pcmOf(from), { start: 0, from: 0, to: endOf(of) }, TAIL - (endOf(of) - FRAMES) / 48000);
        };
        const takes = tailed(session, wanted, recordings);
        const tapes = new Map<string, Float32Array[]>();
        const fed = onward.feeds.map((feed): Fed => {
          const sides = takes[wanted.findIndex(({ kind, id }) => kind === feed.kind && id === feed.id)];
          const mono = farApart([sides[0], sides[0]], sides) === -600;
          tapes.set(`m ${feed.track}`, mono ? [sides[0]] : [...sides]);
          const media = {
            id: `m ${feed.track}`,
            name: feed.name,
            sha256: '0'.repeat(64),
            rate: 48000,
            channels: mono ? 1 : 2,
            frames: FRAMES + TAIL * 48000
          };
          return { feed, start: 0, media: { ...media, encoding: 'f32', peakDb: 0, origin: null, loudness: null } };
        });
        expect(stemSession(onward, fed.slice(1), 'Onward')).toMatchObject({ ok: false, error: { code: 'missing' } });
        // Of two ranges the first ends where the second begins.
        const parts = fed.flatMap((each) => [each, { ...each, start: 3000 }]);
        const two = stemSession(onward, parts, 'Two');
        const lengths = two.ok ? [...two.value.clip.values()].map(({ start, length }) => [start, length > 3000]) : [];
        expect(new Set(lengths.map(String))).toEqual(new Set(['0,false', `3000,${session.settings.get('settings')!.fadeOut === 0}`]));
        const made = stemSession(onward, fed, 'Onward');
        if (!made.ok) throw new Error(made.error.message);
        expect(readDocument(writeDocument({ ...made.value, clip: new Map(), media: new Map() }))).toMatchObject({ ok: true });
        expect(judgeStems(made.value).whole).toBe(true);
        const again = tailed(made.value, files(made.value, { kind: 'mix' }, { kind: 'version' }), tapes);
        // A device's noise in the chain is another from another frame on: −110 dB twice, as loud as it is made.
        const noisy = [...made.value.insert.values()].some(({ type, params }) => type === 'outside' && (params.noise ?? -110) > -140);
        for (const i of [0, 1]) expect(farApart(again[i], takes[4 + i])).toBeLessThan(noisy ? -80 : -500);
      }),
      { numRuns: 20, seed: 32 }
    );
  });
});

describe('a bus or return taken as a track', () => {
  it('is the same mix once it is heard in the place of what rests, sends and all; and muted it is not heard', () => {
    fc.assert(
      fc.property(moves, fc.constantFrom('a', 'inner', 'room', 'hall', 'c'), (commands, of) => {
        const session = attempt(desk(), commands);
        carryOut(
          session,
          { do: 'sends.set', sends: [{ source: 'inner', target: 'room', level: -3 }] },
          { do: 'sends.set', sends: [{ source: 'c', target: 'hall', level: -12 }] }
        );
        const row = session.channel.get(of)!;
        const mixOf = (of: Session) => rendered(passesOf(of, files(of, { kind: 'mix' }))[0], pcmOf(recordings))[0];
        const before = mixOf(session);
        const [printed] = rendered(passesOf(session, files(session, { kind: row.kind as 'bus', id: of }))[0], pcmOf(recordings));
        const mono = farApart([printed[0], printed[0]], printed) === -600;
        recordings.set('m-taken', mono ? [printed[0]] : printed);
        const media = { id: 'm-taken', name: 'Taken', sha256: '1'.repeat(64), rate: 48000, channels: mono ? 1 : 2, frames: FRAMES };
        const take = { do: 'tracks.take', id: 'taken', of, media: { ...media, encoding: 'f32', peakDb: -3, origin: null } } as Command;
        carryOut(session, take);
        expect(farApart(mixOf(session), before)).toBe(-600);
        carryOut(session, { do: 'rests.set', ids: [of], on: true }, { do: 'mutes.set', ids: ['taken'], on: false, alone: true });
        // Nothing was behind the end of what was printed but the tail of a key, and the sums may be made in another order.
        const noisy = [...session.insert.values()].some(({ type, params }) => type === 'outside' && (params.noise ?? -110) > -140);
        const muted = row.mute || session.channel.get(of)!.mute;
        if (!muted) expect(farApart(mixOf(session), before)).toBeLessThan(noisy ? -80 : -100);
      }),
      { numRuns: 14, seed: 32 }
    );
  });
});

// Prints on random desks: stems add up to what comes into the mix bus, the chain makes of their sum the mix, a version that changes
// nothing is the mix, and one that does is what the session would be: all to the bit.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, module } from '../../tests/oracle/rig.ts';
import {
  attempt,
  desk,
  farApart,
  files,
  FRAMES,
  moves,
  pcmOf,
  recordings,
  rendered,
  summed,
  type Sides
} from '../../tests/oracle/stemDesk.ts';
import type { Command } from '../commands/index.ts';
import type { Engine, Pcm } from '../engine/engine.ts';
import { shareRing, type Share } from '../engine/share.ts';
import { topologyOf } from '../engine/topology.ts';
import { levelOf } from '../routing/level.ts';
import type { Session } from '../session/entities.ts';
import { judgeStems } from '../stems/soundness.ts';
import { chainAlone, keyFiles, keyName, SUM, waitOf } from './chainAlone.ts';
import { AS_MIXED, passesOf } from './passes.ts';
import { crossingOf, engineOf } from './render.ts';

describe('one pass', () => {
  it('gives stems that add up to the mix-bus input, and a chain that makes the mix of their sum, to the bit', () => {
    fc.assert(
      fc.property(moves, (commands) => {
        const session = attempt(desk(), commands);
        expect(judgeStems(session).sound).toBe(true);
        const wanted = [...files(session, { kind: 'stem' }, { kind: 'input' }, { kind: 'mix' }), ...keyFiles(session)];
        const [pass, ...more] = passesOf(session, wanted);
        expect(more).toEqual([]);
        const takes = rendered(pass, pcmOf(recordings));
        const sum = summed(takes.slice(0, 4));
        expect(sum).toEqual(takes[4]);
        const alone = chainAlone(session, AS_MIXED, FRAMES * 2);
        const wait = waitOf(module, pass, alone, pass.outlets[5].id);
        const feeds = new Map<string, Sides>([[SUM, sum]]);
        wanted.slice(6).forEach(({ id, tap }, i) => feeds.set(keyName(id, tap), takes[6 + i]));
        const pcm: Pcm = (media, channel, at, into) => pcmOf(feeds)(media, channel, at - wait, into);
        const span = { start: 0, from: wait, to: wait + FRAMES, fadesAt: { late: wait, end: FRAMES } };
        const again = rendered(alone, pcm, span)[0];
        // A noise floor sounds before the first frame too, which the chain hears and no file holds.
        const noisy = [...session.insert.values()].some(({ type, params }) => type === 'outside' && (params.noise ?? -110) > -140);
        if (noisy) expect(farApart(again, takes[5])).toBeLessThan(-115);
        else expect(again).toEqual(takes[5]);
      }),
      { numRuns: 20, seed: 32 }
    );
  });

  it('gives of each version what the session would be, were its chain and stems like that', () => {
    fc.assert(
      fc.property(
        moves,
        fc.constantFrom('a', 'b', 'c', 'fx'),
        fc.constantFrom(3, -6, '-inf' as const),
        fc.boolean(),
        fc.boolean(),
        (commands, stem, by, fader, fades) => {
          const session = attempt(desk(), commands);
          // No key listens to a stem, and none is at an end that a level would pass.
          const level = session.channel.get(stem)!.faderDb + (by === '-inf' ? -Infinity : by);
          carryOut(
            session,
            { do: 'versions.add', id: 'same', name: 'Same' },
            { do: 'versions.add', id: 'v', name: 'V', stems: { [stem]: by }, inserts: { lim: false }, fader, fades },
            { do: 'versions.add', id: 'apart', name: 'Apart', channels: [{ id: 't3', mute: true }] }
          );
          const wanted = files(session, { kind: 'mix' }, { kind: 'version' });
          const passes = passesOf(session, wanted);
          expect(passes.map(({ outlets }) => outlets.map(({ file }) => file))).toEqual([[0, 1, 2], [3]]);
          const [mix, same, version] = rendered(passes[0], pcmOf(recordings));
          expect(same).toEqual(mix);
          const [muted] = rendered(passes[1], pcmOf(recordings));
          const mixOf = (of: Session) => rendered(passesOf(of, files(of, { kind: 'mix' }))[0], pcmOf(recordings))[0];
          const changed = (...more: Command[]) => {
            const copy: Session = {
              ...session,
              channel: new Map(session.channel),
              insert: new Map(session.insert),
              settings: new Map(session.settings),
              lane: new Map(session.lane),
              point: new Map(session.point)
            };
            return carryOut(copy, ...more);
          };
          expect(muted).toEqual(mixOf(changed({ do: 'mutes.set', ids: ['t3'], on: true, alone: true })));
          // Lanes of what a version sets do not count in it.
          const laned = [...session.lane.values()].filter(
            ({ channelId, of, insertId }) =>
              (of === 'bypass' && insertId === 'lim') || (!fader && channelId === 'mix' && (of === 'fader' || of === 'faderTrim'))
          );
          const other = changed(
            ...(laned.length ? [{ do: 'lanes.remove' as const, ids: laned.map(({ id }) => id) }] : []),
            { do: 'inserts.bypass', ids: ['lim'], on: true },
            ...(fades
              ? []
              : [{ do: 'fades.set' as const, in: { frames: 0, curve: 'linear' as const }, out: { frames: 0, curve: 'linear' as const } }])
          );
          const row = other.channel.get(stem)!;
          other.channel.set(stem, { ...row, faderDb: level });
          if (!fader) {
            const held = levelOf(other, other.channel.get('mix')!) - other.channel.get('mix')!.faderDb;
            other.channel.set('mix', { ...other.channel.get('mix')!, faderDb: -held });
          }
          // A level on the edge and one in the fader are two roundings.
          expect(farApart(version, mixOf(other))).toBeLessThan(-100);
        }
      ),
      { numRuns: 14, seed: 32 }
    );
  });

  it('is the same to the bit in two shares, wherever it is cut', () => {
    fc.assert(
      fc.property(moves, fc.double({ min: 0, max: 1, noNaN: true }), (commands, place) => {
        const session = attempt(desk(), commands);
        carryOut(session, { do: 'versions.add', id: 'v', name: 'V', stems: { a: '-inf' } });
        const wanted = files(
          session,
          { kind: 'stem' },
          { kind: 'input' },
          { kind: 'mix' },
          { kind: 'version' },
          { kind: 'raw' },
          { kind: 'dry' }
        );
        const [pass] = passesOf(session, wanted);
        const { strips } = topologyOf(pass.session);
        // Any beginning of an order in which what feeds comes first.
        const first = new Set(strips.slice(0, 1 + Math.floor(place * (strips.length - 2))).map(({ channel }) => channel.id));
        const ring = shareRing(crossingOf(module, pass, first));
        const engine = (share?: Share) => engineOf(module, pass, pcmOf(recordings), { to: FRAMES, share });
        const [whole, ahead, behind] = [engine(), engine({ part: 0, first, ring }), engine({ part: 1, first, ring })];
        const heard = (of: Engine) => pass.outlets.map(({ id, tap }) => [0, 1].map((side) => of.tap(id, side as 0 | 1, tap)));
        // In one thread: by turns, as far as the ring lets the first go ahead.
        for (let period = 0; period < FRAMES / 64; period++) {
          if (period % 4 === 0) for (let i = 0; i < 4; i++) ahead.period();
          behind.period();
          whole.period();
          expect(heard(behind)).toEqual(heard(whole));
        }
      }),
      { numRuns: 8, seed: 32 }
    );
  });
});

// What clips sound like: against a rendering sample by sample from the rows alone, and against what must hold.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyEdits, editDesk, editOf, LENGTH, playedBy } from '../../tests/oracle/anyEdit.ts';
import { apart, carryOut, module, noise, play, rig } from '../../tests/oracle/rig.ts';
import { plan } from '../commands/plan.ts';
import { startKernel } from '../kernel/kernel.ts';
import { checkSession } from '../session/check.ts';
import { commit } from '../session/changes.ts';
import type { Clip, Session } from '../session/entities.ts';
import { clipsInTime, edgeOf } from '../session/timeline.ts';
import { stretchesOf, stretchReader, type Stretch } from './stretches.ts';
import type { Pcm } from './engine.ts';

const kernel = startKernel(module);
const sounds = new Map(['a', 'b', 'c', 'l', 'r', 'w'].map((id, i) => [`m-${id}`, [noise(LENGTH, i + 1), noise(LENGTH, i + 50)]]));
const pcm = (mediaId: string, channel: number, from: number, into: Float32Array) =>
  into.set(sounds.get(mediaId)![channel].subarray(from, from + into.length));
const SPAN = LENGTH * 2;
/** All of it at once, from memory that is not the kernel's. */
const readStretches = (stretches: readonly Stretch[], from: number, into: Float32Array, pcm: Pcm, own = kernel) =>
  stretchReader(stretches, own)(from, into, null, pcm);

/** A side of a track, read in pieces of these lengths by turns. */
function read(session: Session, id: string, side: 0 | 1, pieces: readonly number[]): Float32Array {
  const stretches = stretchesOf(clipsInTime(session, id), side, edgeOf(session), kernel);
  const out = new Float32Array(SPAN);
  const reader = stretchReader(stretches, kernel);
  for (let at = 0, i = 0; at < SPAN; at += pieces[i++ % pieces.length])
    reader(at, out.subarray(at, Math.min(SPAN, at + pieces[i % pieces.length])), null, pcm);
  return out;
}

describe('clips', () => {
  it('sound as their rows say, in whatever pieces they are read', () => {
    fc.assert(
      fc.property(anyEdits(), (drafts) => {
        const session = editDesk();
        drafts.forEach((draft, n) => {
          const planned = plan(session, editOf(session, draft, n));
          if (planned.ok) commit(session, planned.value.changes);
        });
        for (const id of ['a', 'c', 'l'])
          for (const side of [0, 1] as const) {
            const whole = read(session, id, side, [SPAN]);
            expect(apart(read(session, id, side, [256]), whole)).toBeLessThan(-300);
            const expected = playedBy(
              clipsInTime(session, id),
              side ? 'right' : 'left',
              SPAN,
              edgeOf(session),
              (mediaId, channel, frame) => sounds.get(mediaId)![channel][frame]
            );
            expect(apart(whole, expected)).toBeLessThan(-100);
          }
        // Halves of the pair, and a copy of it, play what it plays.
        const sides = ([0, 1] as const).map((side) => read(session, 'l', side, [SPAN]));
        const changed = plan(session, { do: 'channels.duplicate', ids: ['l'], as: 'copy' });
        if (!changed.ok) throw new Error(changed.error.message);
        commit(session, changed.value.changes);
        const copy = [...session.channel.values()].find(
          ({ born }) => born === Math.max(...[...session.channel.values()].map((each) => each.born))
        )!;
        for (const side of [0, 1] as const) expect(apart(read(session, copy.id, side, [SPAN]), sides[side])).toBeLessThan(-300);
        carryOut(session, { do: 'tracks.split', id: 'l', right: 's' });
        expect(checkSession(session)).toEqual({ ok: true, value: null });
        for (const [i, id] of ['l', 's'].entries()) expect(apart(read(session, id, 0, [SPAN]), sides[i])).toBeLessThan(-300);
      }),
      { numRuns: 150, seed: 18 }
    );
  });

  it('sound as one to the bit, cut and crossed wherever, through the engine', () => {
    const recordings = new Map([...sounds].map(([id, sides]) => [id.slice(2), sides]));
    const whole = play(rig(editDesk(), recordings), LENGTH);
    const cut = carryOut(
      editDesk(),
      ...[100, 1000, 1111, 3333, 5999].map((at, i) => ({ do: 'clips.cut' as const, channels: ['a', 'c', 'l', 'w'], at, as: `x${i}` })),
      { do: 'clips.join', ids: ['x1:1', 'x2:1'], frames: 60 },
      { do: 'clips.gain', ids: ['x3:1', 'x3:2'], db: -6 },
      { do: 'clips.gain', ids: ['x3:1', 'x3:2'], db: 0 }
    );
    expect(cut.clip.size).toBeGreaterThan(30);
    expect(play(rig(cut, recordings), LENGTH, 100)).toEqual(whole);
  });

  it('of linked tracks stay together to the frame, whatever is edited on one: impulses of both fall on the same samples', () => {
    const impulses = Float32Array.from({ length: LENGTH }, (_, i) => (i % 499 === 7 ? 1 : 0));
    const recordings = new Map([...sounds].map(([id, sides]) => [id.slice(2), sides]));
    for (const id of ['a', 'b']) recordings.set(id, [impulses]);
    fc.assert(
      fc.property(anyEdits(8), (drafts) => {
        const session = editDesk();
        drafts.forEach((draft, n) => {
          const command = editOf(session, draft, n);
          const own = 'ids' in command ? (command.ids as string[]).every((id) => session.clip.get(id)?.channelId === 'a') : false;
          // What stays one's own: gains, and moves to other tracks.
          if (!own || command.do === 'clips.gain' || command.do === 'clips.mute' || 'to' in command) return;
          const planned = plan(session, command);
          if (planned.ok) commit(session, planned.value.changes);
        });
        const engine = rig(session, recordings);
        for (let at = 0; at < SPAN; at += 64) {
          engine.period();
          expect(engine.tap('b', 0)).toEqual(engine.tap('a', 0));
        }
      }),
      { numRuns: 25, seed: 19 }
    );
  });

  it('keep their power where different noise crosses, and their amplitude where one recording does', () => {
    const long = 96_000;
    const mean = (samples: Float32Array, from: number, to: number) =>
      samples.subarray(from, to).reduce((sum, x) => sum + x * x, 0) / (to - from);
    for (const curve of ['power', 'linear', 'slow', 'fast'] as const) {
      const sources = new Map([
        ['x', noise(long, 7)],
        ['y', noise(long, 8)]
      ]);
      const clip = (id: string, start: number, fades: Partial<Clip>): Clip => ({
        ...editDesk().clip.get('c:1')!,
        id,
        mediaId: id,
        start,
        length: long,
        ...fades
      });
      const cross = 48_000;
      const pair = [clip('x', 0, { fadeOut: cross, fadeOutCurve: curve }), clip('y', long - cross, { fadeIn: cross, fadeInCurve: curve })];
      const out = new Float32Array(2 * long - cross);
      readStretches(
        stretchesOf(pair, 0, 96, kernel),
        0,
        out,
        (id, _, from, into) => into.set(sources.get(id)!.subarray(from, from + into.length)),
        kernel
      );
      const steady = mean(sources.get('x')!, 0, long);
      for (let at = long - cross; at < long; at += 6000)
        expect(Math.abs(10 * Math.log10(mean(out, at, at + 6000) / steady))).toBeLessThan(0.2);
      // The same of one recording, of unlike gain so that it is not taken as one: a constant stays between both.
      const same = [
        { ...pair[0], gainDb: -6 },
        { ...pair[1], mediaId: 'x', offset: long - cross, length: cross + 10 }
      ];
      const flat = new Float32Array(long);
      readStretches(stretchesOf(same, 0, 96, kernel), 0, flat, (_, __, ___, into) => into.fill(1), kernel);
      const half = kernel.gainOf(-6);
      for (const at of [long - cross, long - cross / 2, long - 1]) {
        expect(flat[at]).toBeGreaterThanOrEqual(half - 1e-6);
        expect(flat[at]).toBeLessThanOrEqual(1 + 1e-6);
      }
    }
  });

  it('glide where pieces of one recording meet that are not equally loud, and stop gently before one that is muted', () => {
    const session = carryOut(
      editDesk(),
      { do: 'clips.cut', ids: ['c:1'], at: 2000, as: 'x' },
      { do: 'clips.mute', ids: ['x:1'], on: true }
    );
    const out = new Float32Array(LENGTH);
    const ones = (_: string, __: number, ___: number, into: Float32Array) => void into.fill(1);
    readStretches(stretchesOf(clipsInTime(session, 'c'), 0, 96, kernel), 0, out, ones, kernel);
    expect([out[1903], out[1952], out[1999], out[2000]]).toEqual([1, 0.5, Math.fround(1 / 96), 0]);
    carryOut(session, { do: 'clips.mute', ids: ['x:1'], on: false }, { do: 'clips.gain', ids: ['x:1'], db: 6 });
    readStretches(stretchesOf(clipsInTime(session, 'c'), 0, 96, kernel), 0, out.fill(0), ones, kernel);
    const loud = kernel.gainOf(6);
    expect([out[1999], out[2000], out[2096]]).toEqual([1, 1, Math.fround(loud)]);
    expect(out[2048]).toBeCloseTo((1 + loud) / 2, 6);
  });
});

// A desk that a tone plays through, with latency, an echo that feeds back, a reverb, a compressor and a limiter; and the same with more
// on it, on which the example in every command's docstring can be carried out.
import { commit, removal } from '../../core/session/changes.ts';
import type { Session } from '../../core/session/entities.ts';
import { carryOut, emptyDesk, RATE, trackCommand } from './rig.ts';

const HZ = 100;
export const LONG = RATE * 8;
const tone = (level: number) => Float32Array.from({ length: LONG }, (_, i) => level * Math.sin((2 * Math.PI * HZ * i) / RATE));
export const recordings = new Map([
  ['a', [tone(0.1)]],
  ['b', [tone(0.08), tone(0.06)]],
  ['c', [tone(0.05)]],
  ['d', [tone(0.04)]],
  ['new', [tone(0.07)]]
]);
const tracks = trackCommand([
  { id: 'a', frames: LONG },
  { id: 'b', width: 2, frames: LONG },
  { id: 'c', frames: LONG },
  { id: 'd', frames: LONG }
]);

/** Levels are low enough for sums of all to stay below the limiter, which is late all the same. */
export const playingDesk = (): Session =>
  carryOut(
    emptyDesk(),
    tracks,
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a', 'b'] },
    { do: 'buses.add', id: 'mono', name: 'MONO', members: ['d'] },
    { do: 'widths.set', ids: ['mono'], width: 1 },
    { do: 'returns.add', id: 'echo', name: 'Echo', effect: 'delay' },
    { do: 'inserts.set', id: 'echo:delay', values: { 't1.time': 230, feedback: 60 } },
    { do: 'returns.add', id: 'room', name: 'Room', outputId: 'bus' },
    { do: 'returns.add', id: 'idle', name: 'Idle', effect: 'none' },
    {
      do: 'sends.set',
      sends: [
        { source: 'a', target: 'echo', level: -6 },
        { source: 'b', target: 'room', level: -6 },
        { source: 'c', target: 'echo', level: -12, tap: 'pre' }
      ]
    },
    { do: 'inserts.add', id: 'way', channelId: 'c', type: 'outside' },
    { do: 'inserts.set', id: 'way', values: { latency: 1234, noise: -140 } },
    { do: 'inserts.add', id: 'comp', channelId: 'bus', type: 'comp' },
    { do: 'inserts.set', id: 'comp', values: { threshold: -40, ratio: 4 } },
    { do: 'inserts.add', id: 'press', channelId: 'd', type: 'comp' },
    { do: 'inserts.set', id: 'press', values: { threshold: -50, ratio: 20 } },
    { do: 'inserts.add', id: 'eq', channelId: 'a', type: 'eq' },
    { do: 'inserts.add', id: 'trim', channelId: 'mono', type: 'trim' },
    { do: 'inserts.add', id: 'squash', channelId: 'mono', type: 'comp' },
    { do: 'inserts.set', id: 'squash', values: { threshold: -50, ratio: 20 } },
    { do: 'chain.add', id: 'last', name: 'LAST' },
    { do: 'inserts.add', id: 'lim', channelId: 'last', type: 'limiter' },
    { do: 'keys.add', id: 'key', name: 'Key' },
    { do: 'clicks.add', id: 'click', name: 'Click' },
    { do: 'cues.add', id: 'cue', name: 'Cue', sources: ['a', 'b'] }
  );

/** The same, and what examples need besides: a return like the echo, tracks without sound, a divider, a kept set, a solo to recall. */
export function exampleDesk(): Session {
  const session = carryOut(
    playingDesk(),
    { do: 'returns.add', id: 'echo2', name: 'Echo 2', effect: 'delay' },
    { do: 'inserts.set', id: 'echo2:delay', values: { 't1.time': 230, feedback: 60 } },
    trackCommand([
      { id: 'empty', frames: 100 },
      { id: 'spare', frames: 100 },
      { id: 'spare2', frames: 100 }
    ]),
    { do: 'dividers.set', id: 'line', caption: 'Line' },
    { do: 'vcas.add', id: 'vca', name: 'VCA', members: ['a', 'bus'] },
    { do: 'vcas.add', id: 'over', name: 'OVER', members: ['vca', 'c'] },
    { do: 'links.add', id: 'link', name: 'Pair', badge: 'pair', members: ['a', 'b'], attributes: ['level', 'pan', 'mute', 'sendLevel'] },
    { do: 'stems.set', ids: ['bus'], on: true },
    { do: 'versions.add', id: 'version', name: 'No limiter', inserts: { lim: false } },
    { do: 'versions.add', id: 'other', name: 'Other', stems: { bus: -1 } },
    { do: 'clips.cut', ids: ['d:1'], at: 4 * RATE, as: 'dd' },
    { do: 'lanes.add', id: 'ride', channelId: 'd', of: 'fader' },
    {
      do: 'points.set',
      lane: 'ride',
      points: [
        { at: 0, value: 0 },
        { at: RATE, value: -3, shape: 'eased' },
        { at: 3 * RATE, value: -1 }
      ]
    },
    { do: 'lanes.add', id: 'swell', channelId: 'd', of: 'pan' },
    {
      do: 'points.set',
      lane: 'swell',
      points: [
        { at: 0, value: -10 },
        { at: RATE / 2, value: 10, shape: 'hold' },
        { at: RATE, value: 0 }
      ]
    },
    { do: 'lanes.add', id: 'dip', channelId: 'b', of: 'sendLevel', target: 'room', begin: true },
    { do: 'lanes.add', id: 'squeeze', channelId: 'd', of: 'param', insertId: 'press', param: 'threshold', begin: true },
    { do: 'lanes.add', id: 'still', channelId: 'mono', of: 'fader', begin: true },
    { do: 'markers.set', id: 'mark', name: 'Verse', at: RATE },
    { do: 'ranges.set', id: 'range', name: 'Chorus', from: RATE, to: 3 * RATE },
    { do: 'showings.save', id: 'set', number: 2, name: 'Two', ids: ['a', 'b'] },
    { do: 'cues.share', id: 'cue', token: 'another-token-of-some-length' },
    { do: 'solos.set', ids: ['a'], on: true },
    { do: 'solos.clear' },
    { do: 'solos.set', ids: ['c'], on: true }
  );
  // A track that waits for its recording, as a template leaves it.
  commit(session, [removal(session, 'clip', 'empty:1'), removal(session, 'media', 'm-empty')]);
  return session;
}

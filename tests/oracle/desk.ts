// A desk with everything on it, for tests of the whole engine.
import type { Command } from '../../core/commands/index.ts';
import type { Session } from '../../core/session/entities.ts';
import { carryOut, emptyDesk, noise, trackCommand } from './rig.ts';

export const FRAMES = 24000;

/**
 * Nine tracks of both widths, two buses, a nested bus, three returns, one feeding another; every processor, keys, every
 * tap, mono sends and sends with pans of their own; a limiter in one branch, so that the others have to wait for it.
 */
export function desk(): { session: Session; recordings: Map<string, Float32Array[]> } {
  const session = emptyDesk();
  const tracks = Array.from({ length: 9 }, (_, i) => ({ id: `t${i}`, width: (i % 3 === 1 ? 2 : 1) as 1 | 2, frames: FRAMES }));
  const recordings = new Map(tracks.map(({ id, width }, i) => [id, Array.from({ length: width }, (_, c) => noise(FRAMES, i * 2 + c + 1))]));
  carryOut(
    session,
    trackCommand(tracks),
    { do: 'buses.add', id: 'low', name: 'LOW', members: ['t0', 't1', 't2'] },
    { do: 'buses.add', id: 'high', name: 'HIGH', members: ['t3', 't4'] },
    { do: 'buses.add', id: 'all', name: 'ALL', members: ['low', 'high'] },
    { do: 'returns.add', id: 'room', name: 'Room', outputId: 'all' },
    { do: 'returns.add', id: 'plate', name: 'Plate' },
    { do: 'inserts.set', id: 'plate:reverb', values: { type: 1, decay: 0.8, mix: 80, width: 60 } },
    {
      do: 'sends.set',
      sends: tracks.map(({ id }, i) => ({ source: id, target: i % 2 ? 'room' : 'plate', level: -6 - i, tap: i % 4 === 0 ? 'pre' : 'post' }))
    },
    {
      do: 'sends.set',
      sends: [
        { source: 'room', target: 'plate', level: -12 },
        { source: 'low', target: 'plate', level: -20, on: false }
      ]
    },
    { do: 'faders.set', levels: tracks.map(({ id }, i) => ({ id, level: -i * 1.5 })) },
    { do: 'pans.set', pans: tracks.map(({ id }, i) => ({ id, pan: i * 25 - 100 })) },
    ...['t0', 't1', 't4', 't7', 'low', 'mix'].map((id): Command => ({ do: 'inserts.add', id: `eq-${id}`, channelId: id, type: 'eq' })),
    ...['t0', 't1', 't4', 't7', 'low', 'mix'].map((id, i): Command => ({
      do: 'inserts.set',
      id: `eq-${id}`,
      values: {
        'b1.on': 1,
        'b1.freq': 60 + i * 20,
        'b1.slope': i % 6,
        'b3.on': i % 2,
        'b3.gain': 6 - i * 2,
        'b4.on': 1,
        'b4.gain': -4,
        'b5.on': 1,
        'b5.gain': 3,
        'b2.on': 1,
        'b2.gain': i - 2
      }
    })),
    { do: 'mutes.set', ids: ['t6'], on: true },
    {
      do: 'pans.set',
      pans: [
        { id: 't4', pan: -60, right: 80 },
        { id: 'high', spread: 40 },
        { id: 'room', pan: -20, right: 30, spread: 150 }
      ]
    },
    { do: 'trims.set', levels: [{ id: 't5', level: -3 }] },
    { do: 'polarities.set', ids: ['t5', 'high'], on: true },
    { do: 'returns.add', id: 'echo', name: 'Echo', effect: 'none' },
    { do: 'inserts.add', id: 'echo-delay', channelId: 'echo', type: 'delay' },
    { do: 'inserts.set', id: 'echo-delay', values: { mode: 2, 't1.time': 90, feedback: 50, mix: 100 } },
    {
      do: 'sends.set',
      sends: [
        { source: 't1', target: 'echo', level: -10, tap: 'input', mono: true },
        { source: 't2', target: 'echo', level: -8, tap: 'post', mono: true, pan: 40 },
        { source: 't3', target: 'echo', level: -9, tap: 'post', pan: -70 },
        { source: 't4', target: 'echo', level: -11, tap: 'post', mono: true, pan: 30 },
        { source: 't5', target: 'echo', level: -12, tap: 'input' },
        { source: 't7', target: 'echo', level: -7, tap: 'pre', pan: 55 },
        { source: 'high', target: 'echo', level: -14, tap: 'pre' }
      ]
    },
    ...['t0', 't1', 't3', 't5', 't8', 'high', 'room'].map((id): Command => ({
      do: 'inserts.add',
      id: `c-${id}`,
      channelId: id,
      type: 'comp'
    })),
    ...['t0', 't1', 't3', 't5', 't8', 'high', 'room'].map((id, i): Command => ({
      do: 'inserts.set',
      id: `c-${id}`,
      values: { threshold: -30 + i, ratio: 2 + i, character: i % 3, detector: i % 2, keyHigh: i % 2 ? 20 : 120, attack: 1 + i * 4 }
    })),
    { do: 'inserts.key', id: 'c-t3', source: 't1', tap: 'post' },
    { do: 'inserts.key', id: 'c-t8', source: 'low', tap: 'pre' },
    { do: 'inserts.key', id: 'c-high', source: 'high', tap: 'input' },
    { do: 'inserts.add', id: 'lim-low', channelId: 'low', type: 'limiter' },
    { do: 'inserts.set', id: 'lim-low', values: { ceiling: -12, drive: 3 } },
    { do: 'inserts.add', id: 'trim-t4', channelId: 't4', type: 'trim' },
    { do: 'inserts.set', id: 'trim-t4', values: { swap: 1, gain: -2, delay: 77, turnR: 1 } }
  );
  return { session, recordings };
}

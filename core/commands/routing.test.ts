// Routing commands: what they promise of the signal is asked of the engine, not of the rows.
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, noise, play, rig, trackCommand } from '../../tests/oracle/rig.ts';
import { mixChain, treeOf } from '../routing/graph.ts';
import { trace, traceText } from '../routing/trace.ts';
import { sendId, type Session } from '../session/entities.ts';
import { decodeSession, encodeSession } from '../session/tables.ts';
import type { Command } from './index.ts';
import { plan } from './plan.ts';

const FRAMES = 6000;
const recordings = new Map([
  ['a', [noise(FRAMES, 1)]],
  ['b', [noise(FRAMES, 2), noise(FRAMES, 3)]],
  ['c', [noise(FRAMES, 4)]]
]);
/** Two tracks in a bus with sends into a reverb and a tape-like return, one beside them. */
const desk = () =>
  carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'a', frames: FRAMES },
      { id: 'b', width: 2, frames: FRAMES },
      { id: 'c', frames: FRAMES }
    ]),
    { do: 'buses.add', id: 'bus', name: 'PANS', members: ['a', 'b'] },
    { do: 'returns.add', id: 'room', name: 'Room', sources: ['a', 'b', 'c'] },
    { do: 'inserts.set', id: 'room:reverb', values: { preDelay: 0 } },
    ...['a', 'b', 'c'].map((source): Command => ({ do: 'sends.set', sends: [{ source, target: 'room', level: -6 }] })),
    { do: 'faders.set', levels: [{ id: 'a', level: -3 }] },
    { do: 'pans.set', pans: [{ id: 'a', pan: -40 }] }
  );
const out = (session: Session) => play(rig(session, recordings), FRAMES);
const difference = (session: Session, other: Session) => {
  const [[l, r], [wantL, wantR]] = [out(session), out(other)];
  return Math.max(apart(l, wantL), apart(r, wantR));
};
const copyOf = (session: Session) => decodeSession(encodeSession(session));
const refusal = (session: Session, command: Command) => {
  const planned = plan(session, command);
  return planned.ok ? null : planned.error;
};

describe('buses', () => {
  it('made, inserted, chained or dissolved at unity change nothing that is heard', () => {
    const before = desk();
    const steps: Command[] = [
      { do: 'buses.add', id: 'x', name: 'X', members: ['bus', 'c'] },
      { do: 'buses.insert', id: 'y', name: 'Y', into: 'bus' },
      { do: 'buses.insert', id: 'z', name: 'Z', into: 'mix' },
      { do: 'chain.add', id: 'knit', name: 'KNIT' },
      { do: 'chain.add', id: 'final', name: 'FINAL' },
      { do: 'buses.dissolve', ids: ['y'] }
    ];
    const session = desk();
    for (const step of steps) {
      carryOut(session, step);
      expect(difference(session, before), step.do).toBe(-600);
    }
    expect(mixChain(session).map(({ id }) => id)).toEqual(['mix', 'knit', 'final']);
    expect(session.channel.get('final')!.outputPair).toBe(0);
    expect(treeOf(session).chain.map(({ channel }) => channel.id)).toEqual(['final', 'knit']);
    // Stages go as they came: the last one hands its output back.
    carryOut(session, { do: 'channels.remove', ids: ['final'] }, { do: 'buses.dissolve', ids: ['knit', 'x', 'z'] });
    expect(difference(session, before)).toBe(-600);
  });

  it('dissolved with their level kept move it into members and out of their sends; dropped, it is gone', () => {
    const set: Command = { do: 'faders.set', levels: [{ id: 'bus', level: -7.5 }] };
    const before = carryOut(desk(), set);
    const kept = carryOut(desk(), set, { do: 'buses.dissolve', ids: ['bus'] });
    expect(kept.channel.get('a')!.faderDb).toBeCloseTo(-10.5, 9);
    expect(kept.send.get(sendId('a', 'room'))!.levelDb).toBeCloseTo(1.5, 9);
    expect(difference(kept, before)).toBeLessThan(-125);
    const dropped = carryOut(desk(), set, { do: 'buses.dissolve', ids: ['bus'], gain: 'drop' });
    expect(dropped.channel.get('a')!.faderDb).toBe(-3);
    const panned = carryOut(desk(), { do: 'pans.set', pans: [{ id: 'bus', pan: 20 }] });
    expect(refusal(panned, { do: 'buses.dissolve', ids: ['bus'] })?.message).toContain('Centre it first');
    expect(refusal(desk(), { do: 'buses.dissolve', ids: ['a'] })?.code).toBe('not-a-bus');
  });

  it('are duplicated with all that goes in: twice as loud, or without sends with half the reverb', () => {
    const session = carryOut(desk(), { do: 'channels.duplicate', ids: ['bus'], as: 'copy', branch: true });
    const names = treeOf(session).mix.map(({ channel, depth }) => `${' '.repeat(depth)}${channel.name}`);
    expect(names).toEqual(['MIX', ' PANS', '  Track a', '  Track b', ' PANS 2', '  Track a 2', '  Track b 2', ' Track c', ' Room']);
    expect([...session.send.values()].filter(({ sourceId }) => sourceId.startsWith('copy'))).toHaveLength(2);
    const without = carryOut(desk(), { do: 'channels.duplicate', ids: ['b'], as: 'copy', sends: false });
    expect([...without.send.values()].filter(({ sourceId }) => sourceId.startsWith('copy'))).toHaveLength(0);
  });
});

describe('returns', () => {
  it('twinned into buses sound the same in sum where they are linear, and come back together', () => {
    const before = desk();
    const session = carryOut(
      desk(),
      { do: 'buses.add', id: 'other', name: 'VOICE', members: ['c'] },
      { do: 'faders.set', levels: [{ id: 'room', level: -4 }] },
      {
        do: 'returns.twin',
        id: 'room',
        twins: [
          { id: 't1', bus: 'bus' },
          { id: 't2', bus: 'other' }
        ]
      }
    );
    carryOut(before, { do: 'faders.set', levels: [{ id: 'room', level: -4 }] });
    expect(session.channel.has('room')).toBe(false);
    expect([session.channel.get('t1')!.name, session.channel.get('t2')!.outputId]).toEqual(['Room PANS', 'other']);
    expect(difference(session, before)).toBeLessThan(-120);
    carryOut(session, { do: 'returns.merge', ids: ['t1', 't2'], to: 'mix' });
    expect([...session.channel.values()].filter(({ kind }) => kind === 'return')).toHaveLength(1);
    expect(difference(session, before)).toBeLessThan(-120);
    carryOut(session, { do: 'returns.add', id: 'hall', name: 'Hall' }, { do: 'inserts.set', id: 'hall:reverb', values: { decay: 9 } });
    expect(refusal(session, { do: 'returns.merge', ids: ['t1', 'hall'] })?.message).toContain('other settings');
  });

  it('driven: sends up and the return down by as much, as far as the loudest can go', () => {
    const session = carryOut(desk(), { do: 'returns.drive', id: 'room', by: 4 });
    expect([session.send.get(sendId('c', 'room'))!.levelDb, session.channel.get('room')!.faderDb]).toEqual([-2, -4]);
    expect(difference(session, desk())).toBeLessThan(-120);
    carryOut(session, { do: 'returns.drive', id: 'room', by: 100 });
    expect(session.send.get(sendId('c', 'room'))!.levelDb).toBe(12);
    const empty = carryOut(desk(), { do: 'returns.add', id: 'e', name: 'E' });
    expect(refusal(empty, { do: 'returns.drive', id: 'e', by: 1 })?.code).toBe('empty');
  });

  it('parallel ones change nothing until they are raised', () => {
    const session = carryOut(desk(), { do: 'returns.parallel', id: 'p', name: 'Press', sources: ['a', 'b'] });
    expect(difference(session, desk())).toBe(-600);
    expect(session.channel.get('p')!.outputId).toBe('bus');
    carryOut(session, { do: 'faders.set', levels: [{ id: 'p', level: 0 }] });
    expect(difference(session, desk())).toBeGreaterThan(-40);
  });
});

describe('taps', () => {
  it('changed with the level kept sound the same, and say where that cannot be', () => {
    for (const tap of ['pre', 'input'] as const) {
      const session = carryOut(desk(), { do: 'sends.tap', sends: [{ source: 'a', target: 'room' }], tap, keep: true });
      expect(session.send.get(sendId('a', 'room'))!.levelDb).toBe(-9);
      expect(difference(session, desk())).toBeLessThan(-125);
      carryOut(session, { do: 'sends.tap', sends: [{ source: 'a', target: 'room' }], tap: 'post', keep: true });
      expect(session.send.get(sendId('a', 'room'))!.levelDb).toBe(-6);
    }
    const shut = carryOut(desk(), { do: 'faders.set', levels: [{ id: 'a', level: -Infinity }] });
    expect(refusal(shut, { do: 'sends.tap', sends: [{ source: 'a', target: 'room' }], tap: 'pre', keep: true })?.code).toBe('silent');
  });
});

describe('cues', () => {
  it('begin as the mix stands, before the faders, on outputs of their own', () => {
    const session = carryOut(
      desk(),
      { do: 'faders.set', levels: [{ id: 'bus', level: -2 }] },
      { do: 'clicks.add', id: 'k', name: 'Click' },
      { do: 'cues.add', id: 'q', name: 'Singer', from: 'mix' }
    );
    expect(session.send.get(sendId('a', 'q'))).toMatchObject({ levelDb: -5, tap: 'pre' });
    expect(session.send.get(sendId('k', 'q'))!.levelDb).toBe(0);
    expect(session.channel.get('q')!.outputPair).toBe(1);
    expect(treeOf(session).cues.map(({ channel }) => channel.id)).toEqual(['q']);
    expect(difference(session, carryOut(desk(), { do: 'faders.set', levels: [{ id: 'bus', level: -2 }] }))).toBe(-600);
    for (const [command, code] of [
      [{ do: 'channels.route', ids: ['q'], to: 'bus' }, 'cue'],
      [{ do: 'sends.set', sends: [{ source: 'q', target: 'room' }] }, 'sends-not'],
      [{ do: 'solos.set', ids: ['q'], on: true }, 'no-solo'],
      [{ do: 'settings.set', interfaceOutputs: 2 }, 'in-use'],
      [{ do: 'cues.add', id: 'q2', name: 'Q', pair: 9 }, 'no-output'],
      [{ do: 'cues.share', id: 'a', token: 'a-token-of-some-length' }, 'not-a-cue']
    ] as [Command, string][])
      expect(refusal(session, command)?.code, JSON.stringify(command)).toBe(code);
  });
});

describe('places', () => {
  it('of two pins hard apart change nothing; of no width both sides are the same; a mono bus takes half of both', () => {
    const apart2 = carryOut(desk(), { do: 'pans.set', pans: [{ id: 'b', pan: -100, right: 100 }] });
    expect(difference(apart2, desk())).toBeLessThan(-140);
    const narrow = carryOut(desk(), { do: 'pans.set', pans: [{ id: 'mix', spread: 0 }] });
    const [l, r] = out(narrow);
    expect(apart(l, r)).toBeLessThan(-140);
    const crossed = carryOut(desk(), { do: 'pans.set', pans: [{ id: 'mix', pan: 100, right: -100 }] });
    const [[wantL, wantR], [gotL, gotR]] = [out(desk()), out(crossed)];
    expect(Math.max(apart(gotL, wantR), apart(gotR, wantL))).toBeLessThan(-140);
    const mono = carryOut(desk(), { do: 'widths.set', ids: ['bus'], width: 1 });
    expect(mono.channel.get('bus')!.width).toBe(1);
    expect(refusal(desk(), { do: 'widths.set', ids: ['a'], width: 2 })?.code).toBe('track');
  });
});

describe('a mono channel with an insert that makes two sides', () => {
  const widened = () =>
    carryOut(
      desk(),
      { do: 'inserts.add', id: 'x', channelId: 'a', type: 'delay' },
      { do: 'inserts.set', id: 'x', values: { mix: 0, mode: 2 } }
    );

  it('is as loud as before where the sound comes through dry, at any pan, into mono sends too', () => {
    for (const before of [
      [],
      [{ do: 'pans.set', pans: [{ id: 'a', pan: -35 }] }],
      [{ do: 'sends.set', sends: [{ source: 'a', target: 'room', level: -3, mono: true, pan: 40 }] }],
      [{ do: 'sends.set', sends: [{ source: 'a', target: 'room', level: -3, mono: true, tap: 'input' }] }]
    ] as Command[][])
      expect(difference(carryOut(widened(), ...before), carryOut(desk(), ...before)), JSON.stringify(before)).toBeLessThan(-140);
  });

  it('takes pins and width while it does, and stands in their middle once it does not', () => {
    const pins: Command = { do: 'pans.set', pans: [{ id: 'a', pan: -80, right: 20, spread: 40 }] };
    expect(carryOut(desk(), pins).channel.get('a')).toMatchObject({ pan: -80, panRight: null, spread: 100 });
    const session = carryOut(widened(), pins);
    expect(session.channel.get('a')).toMatchObject({ pan: -80, panRight: 20, spread: 40, width: 1 });
    const said = trace(session, 'a', { id: 'mix' });
    expect(said.ok && traceText(session, said.value)).toContain(
      'delay, stereo from here · fader −3.0 dB · width 40 % · pins 80 left and 20 right'
    );
    carryOut(session, { do: 'inserts.add', id: 'y', channelId: 'a', type: 'reverb' }, { do: 'inserts.remove', id: 'x' });
    expect(session.channel.get('a')!.panRight).toBe(20);
    carryOut(session, { do: 'inserts.remove', id: 'y' });
    expect(session.channel.get('a')).toMatchObject({ pan: -30, panRight: null, spread: 100 });
  });

  it('keeps it in copies and twins, and is no half of a pair', () => {
    const session = carryOut(widened(), { do: 'inserts.set', id: 'x', values: { mix: 60, feedback: 30, apart: 20 } });
    const both = carryOut(copyOf(session), { do: 'channels.duplicate', ids: ['a'], as: 'n' }, { do: 'mutes.set', ids: ['a'], on: true });
    expect(difference(both, session)).toBeLessThan(-140);
    carryOut(
      session,
      { do: 'widths.set', ids: ['room'], width: 1 },
      { do: 'sends.set', sends: [{ source: 'a', target: 'room', level: -6 }] }
    );
    const twin = carryOut(copyOf(session), { do: 'returns.twin', id: 'room', twins: [{ id: 'twin', bus: 'bus' }] });
    expect(twin.channel.get('twin')!.width).toBe(1);
    carryOut(
      session,
      { do: 'inserts.copy', id: 'x', to: ['c'], as: 'z' },
      { do: 'channels.route', ids: ['c'], to: 'bus' },
      { do: 'faders.set', levels: [{ id: 'c', level: -3 }] }
    );
    const pair = refusal(session, { do: 'tracks.pair', left: 'a', right: 'c' });
    expect([pair?.code, pair?.message]).toEqual(['unequal', expect.stringContaining('delay makes two sides')]);
  });
});

describe('keys', () => {
  it('are made of tracks and given back', () => {
    const session = carryOut(desk(), { do: 'tracks.key', ids: ['c'], on: true });
    expect([session.channel.get('c')!.outputId, session.send.has(sendId('c', 'room'))]).toEqual([null, false]);
    carryOut(session, { do: 'tracks.key', ids: ['c'], on: false }, { do: 'channels.route', ids: ['c'], to: 'mix' });
    expect(session.channel.get('c')!.kind).toBe('track');
  });

  it('may not close a loop, and go along when their processor is copied', () => {
    const session = carryOut(
      desk(),
      { do: 'inserts.add', id: 'x', channelId: 'bus', type: 'comp' },
      { do: 'inserts.key', id: 'x', source: 'c', tap: 'pre' },
      { do: 'inserts.copy', id: 'x', to: ['room', 'b'], as: 'y' }
    );
    expect([...session.insert.values()].filter(({ keyId }) => keyId === 'c').map(({ channelId }) => channelId)).toEqual([
      'bus',
      'room',
      'b'
    ]);
    expect(refusal(session, { do: 'sends.set', sends: [{ source: 'bus', target: 'c' }] })?.code).toBe('not-a-return');
    const loop = refusal(session, { do: 'inserts.key', id: 'y:1', source: 'bus', tap: 'post' });
    expect(loop?.message).toContain('Track b');
    expect(loop?.code).toBe('loop');
  });
});

// VCAs: what they do to levels, mutes and solos; nesting; removal; and that wet stays to dry as it was.
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, noise, rig, trackCommand } from '../../tests/oracle/rig.ts';
import { audibility } from '../routing/audibility.ts';
import { levelOf } from '../routing/level.ts';
import { trace } from '../routing/trace.ts';
import { estimatedLevels } from '../map/levels.ts';
import { topological } from '../routing/graph.ts';
import { commit } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { rowsWoken } from '../session/woken.ts';
import type { Command } from './index.ts';
import { plan } from './plan.ts';

const FRAMES = 9600;
const desk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand(['a', 'b', 'c'].map((id) => ({ id, frames: FRAMES }))),
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a', 'b'] },
    { do: 'returns.add', id: 'wet', name: 'Wet', effect: 'none' },
    { do: 'returns.add', id: 'early', name: 'Early', effect: 'none' },
    {
      do: 'sends.set',
      sends: [
        { source: 'a', target: 'wet', level: -6 },
        { source: 'a', target: 'early', level: -6, tap: 'pre' }
      ]
    },
    { do: 'vcas.add', id: 'v', name: 'RHYTHM', members: ['a', 'b'] },
    { do: 'vcas.add', id: 'w', name: 'BAND', members: ['v', 'c', 'a'] }
  );
const set = (session: Session, levels: Record<string, number>) =>
  carryOut(session, { do: 'faders.set', levels: Object.entries(levels).map(([id, level]) => ({ id, level })) });
const level = (session: Session, id: string) => levelOf(session, session.channel.get(id)!);
const refusal = (session: Session, command: Command) => {
  const planned = plan(session, command);
  return planned.ok ? 'done' : `${planned.error.code}: ${planned.error.message}`;
};

describe('a VCA', () => {
  it('is born at 0 dB and changes no stored fader; each counts once, however many ways lead to it', () => {
    const session = desk();
    expect(['a', 'b', 'c', 'v'].map((id) => level(session, id))).toEqual([0, 0, 0, 0]);
    set(session, { a: -3, v: -2, w: -5 });
    expect(['a', 'b', 'c', 'v'].map((id) => level(session, id))).toEqual([-10, -7, -5, -7]);
    expect(session.channel.get('a')!.faderDb).toBe(-3);
    set(session, { w: -Infinity });
    expect(['a', 'b', 'c'].map((id) => level(session, id))).toEqual([-Infinity, -Infinity, -Infinity]);
  });

  it('keeps wet to dry to 0.01 dB over its range, and moves no send before the fader', () => {
    const session = carryOut(desk(), { do: 'solos.set', ids: ['a'], on: true });
    const recordings = new Map(['a', 'b', 'c'].map((id, i) => [id, [noise(FRAMES, i + 1)]]));
    const rms = (at: Session) => {
      const engine = rig(at, recordings, false);
      const sum = { a: 0, wet: 0, early: 0 };
      for (let frame = 0; frame < FRAMES; frame += 64) {
        engine.period();
        for (const id of ['a', 'wet', 'early'] as const) for (const x of engine.tap(id, 0)!) sum[id] += x * x;
      }
      return { a: 10 * Math.log10(sum.a), wet: 10 * Math.log10(sum.wet), early: 10 * Math.log10(sum.early) };
    };
    const at0 = rms(session);
    for (const by of [-60, -24.5, -6, 3, 12]) {
      const now = rms(set(session, { v: by / 2, w: by / 2 }));
      expect(now.a - at0.a).toBeCloseTo(by, 2);
      expect(now.wet - now.a).toBeCloseTo(at0.wet - at0.a, 2);
      expect(now.early).toBeCloseTo(at0.early, 3);
    }
  });

  it('is followed while it plays: the same as from the start, and only what it holds is touched', () => {
    const recordings = new Map(['a', 'b', 'c'].map((id, i) => [id, [noise(FRAMES, i + 1)]]));
    const session = desk();
    const engine = rig(session, recordings);
    for (let i = 0; i < 20; i++) engine.period();
    const planned = plan(session, { do: 'faders.set', levels: [{ id: 'v', level: -7 }] });
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
    engine.update(planned.value.changes);
    for (let i = 0; i < 100; i++) engine.period();
    const cold = rig(session, recordings);
    cold.locate(engine.position() - 64);
    cold.period();
    expect([...engine.out(0)]).toEqual([...cold.out(0)]);
    const woken = [...rowsWoken(session, planned.value.changes)].filter((signal) => signal.startsWith('channel '));
    expect(woken.sort()).toEqual(['channel a', 'channel b', 'channel v']);
  });

  it('mutes and solos all beneath it, with its name in the sentence', () => {
    const session = carryOut(desk(), { do: 'settings.set', muteClosesPre: false }, { do: 'mutes.set', ids: ['v'], on: true });
    const heard = (id: string) => audibility(session).state(id);
    expect(heard('a')).toEqual({ heard: 'muted', why: 'Muted by RHYTHM; sends before its fader stay open' });
    expect(heard('b').why).toBe('Muted by RHYTHM');
    expect(heard('c').heard).toBe('heard');
    carryOut(session, { do: 'mutes.set', ids: ['v'], on: false }, { do: 'solos.set', ids: ['v'], on: true });
    expect(['a', 'b', 'c', 'bus', 'wet'].map((id) => heard(id).heard)).toEqual(['heard', 'heard', 'silent', 'heard', 'heard']);
    carryOut(session, { do: 'solos.clear' });
    expect(heard('c').heard).toBe('heard');
    carryOut(session, { do: 'solos.recall' });
    expect(heard('c').heard).toBe('silent');
  });

  it('stands in traces and in what the Map draws', () => {
    const session = set(desk(), { v: -4, w: -1 });
    const traced = trace(session, 'b');
    const stages = traced.ok ? traced.value.paths[0].stations[0].stages.filter(({ what }) => what === 'vca') : [];
    expect(stages).toEqual([
      { what: 'vca', text: 'VCA RHYTHM', db: -4 },
      { what: 'vca', text: 'VCA BAND', db: -1 }
    ]);
    const order = topological(session);
    const lower = estimatedLevels(session, order).get('b')!;
    expect(estimatedLevels(set(session, { v: 0, w: 0 }), order).get('b')! - lower).toBeCloseTo(5, 9);
    expect(refusal(session, { do: 'faders.set', levels: [{ id: 'b', level: 0 }] })).toBe('done');
    expect(trace(session, 'v')).toMatchObject({ ok: false, error: { code: 'vca' } });
  });

  it('holds no cue, no key track and, by no way, itself; no audio goes through it', () => {
    const session = carryOut(desk(), { do: 'cues.add', id: 'q', name: 'Player' });
    expect(refusal(session, { do: 'vcas.members', id: 'v', add: ['w'] })).toBe(
      'loop: A VCA cannot hold itself: RHYTHM → BAND → RHYTHM. Leave BAND out.'
    );
    expect(refusal(session, { do: 'vcas.members', id: 'v', add: ['v'] })).toContain('loop: A VCA cannot hold itself');
    expect(refusal(session, { do: 'vcas.members', id: 'v', add: ['q'] })).toContain('Player is a cue');
    expect(refusal(session, { do: 'vcas.members', id: 'bus', add: ['a'] })).toContain('not-a-vca');
    const strange: Command[] = [
      { do: 'channels.route', ids: ['a'], to: 'v' },
      { do: 'channels.route', ids: ['v'], to: 'mix' },
      { do: 'sends.set', sends: [{ source: 'v', target: 'wet' }] },
      { do: 'sends.set', sends: [{ source: 'a', target: 'v' }] },
      { do: 'inserts.add', id: 'x', channelId: 'v', type: 'eq' },
      { do: 'buses.add', id: 'x', name: 'X', members: ['v'] },
      { do: 'rests.set', ids: ['v'], on: true }
    ];
    for (const command of strange) expect(refusal(session, command), JSON.stringify(command)).toMatch(/RHYTHM/);
  });
});

describe('what becomes of its members', () => {
  it('halves of a split pair are in the VCAs and link groups of the whole; a pair is made only of what is in the same', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 's', width: 2, frames: FRAMES }]),
      { do: 'vcas.add', id: 'v', name: 'V', members: ['s'] },
      { do: 'links.add', id: 'l', name: 'L', badge: 'l', members: ['s'], attributes: ['level'] },
      { do: 'tracks.split', id: 's', right: 'r' }
    );
    expect([...session.vcaMember.keys(), ...session.linkMember.keys()].sort()).toEqual(['l\nr', 'l\ns', 'v\nr', 'v\ns']);
    const pair: Command = { do: 'tracks.pair', left: 's', right: 'r' };
    expect(refusal(session, pair)).toBe('done');
    carryOut(session, { do: 'vcas.members', id: 'v', remove: ['r'] });
    expect(refusal(session, pair)).toContain('are in different VCAs');
  });

  it('copies are in the VCAs of their originals, unless asked otherwise; a copy of a VCA holds nothing', () => {
    const made = carryOut(desk(), { do: 'channels.duplicate', ids: ['bus', 'v'], as: 'x', branch: true });
    const copies = [...made.channel.keys()].filter((id) => id.startsWith('x:'));
    expect(copies).toHaveLength(4);
    const held = (session: Session) =>
      [...session.vcaMember.values()].filter(({ channelId }) => channelId.startsWith('x:')).map(({ vcaId }) => vcaId);
    // a in v and w, b in v, v in w: where v is copied too, the copies are in the copy.
    const [vca] = copies.filter((id) => made.channel.get(id)!.kind === 'vca');
    expect(held(made).sort()).toEqual(['w', 'w', vca, vca].sort());
    expect(held(carryOut(desk(), { do: 'channels.duplicate', ids: ['bus'], as: 'x', branch: true, groups: false }))).toEqual([]);
  });
});

describe('a VCA that goes', () => {
  it('leaves what it holds to those above it', () => {
    const session = set(desk(), { v: -3, w: -2 });
    carryOut(session, { do: 'vcas.remove', ids: ['v'], fold: false });
    expect([...session.vcaMember.keys()].sort()).toEqual(['w\na', 'w\nb', 'w\nc']);
    expect(['a', 'b', 'c'].map((id) => level(session, id))).toEqual([-2, -2, -2]);
    const other = carryOut(desk(), { do: 'channels.remove', ids: ['v', 'c'] });
    expect([...other.vcaMember.keys()].sort()).toEqual(['w\na', 'w\nb']);
  });

  it('folded in goes into VCAs first, and into channels what these still lack', () => {
    const session = set(desk(), { a: -1, v: -3, w: -2 });
    carryOut(session, { do: 'mutes.set', ids: ['w'], on: true }, { do: 'vcas.remove', ids: ['w'], fold: true });
    // a is in w itself and through v: it gets its share by v.
    expect(['v', 'a', 'b', 'c'].map((id) => session.channel.get(id)!.faderDb)).toEqual([-5, -1, 0, -2]);
    expect(['v', 'a', 'b', 'c'].map((id) => session.channel.get(id)!.mute)).toEqual([true, true, false, true]);
    const loud = set(desk(), { v: 8, w: 6 });
    expect(refusal(loud, { do: 'vcas.remove', ids: ['w'], fold: true })).toContain('too-loud: Folded in, RHYTHM would pass +12 dB');
    expect(refusal(loud, { do: 'vcas.remove', ids: ['w'], fold: false })).toBe('done');
  });
});

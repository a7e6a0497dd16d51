// The demo: it keeps time, its notes fit their chords, its two sections differ, and nothing clips.
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk } from '../tests/oracle/rig.ts';
import { levelOf } from '../core/routing/level.ts';
import { treeOf } from '../core/routing/graph.ts';
import type { Command } from '../core/commands/index.ts';
import { checkSession } from '../core/session/check.ts';
import { finished } from './finished.ts';
import { halfway } from './halfway.ts';
import { BAR, BEAT, bassPan, CHORDS, choir, horns, partOf, SECONDS, sousaphone, strokes, tune } from './score.ts';
import { recordings } from './tracks.ts';
import { random, RATE } from './voices.ts';

const barOf = (at: number) => Math.floor(at / BAR + 1e-6);

describe('score', () => {
  it('stays within the song and within its chords: bass on the root when a bar begins, harmony on chord tones', () => {
    const rnd = random(1);
    const fits = (pitch: number, bar: number) => CHORDS[bar].tones.some((tone) => (tone - pitch) % 12 === 0);
    for (const { at, pitch } of bassPan(rnd).filter(({ at }) => at % BAR < 0.02))
      expect((CHORDS[barOf(at + 0.01)].root - pitch) % 12).toBe(0);
    for (const note of [...horns(0), ...horns(1), ...horns(2), ...([0, 1, 2, 3] as const).flatMap(choir)])
      expect(fits(note.pitch, barOf(note.at))).toBe(true);
    for (const { at, length } of [...tune(), ...sousaphone(), ...horns(0)]) {
      expect(at).toBeGreaterThanOrEqual(0);
      expect(at + length).toBeLessThan(SECONDS);
    }
  });
  it('lifts: more strokes, higher notes and louder ones in “Lanterns” than in the verse', () => {
    const of = (part: string) => tune().filter(({ at }) => partOf(barOf(at)) === part);
    const mean = (list: number[]) => list.reduce((sum, x) => sum + x, 0) / list.length;
    expect(mean(of('lanterns').map(({ pitch }) => pitch))).toBeGreaterThan(mean(of('verse').map(({ pitch }) => pitch)) + 3);
    expect(mean(of('lanterns').map(({ velocity }) => velocity))).toBeGreaterThan(mean(of('verse').map(({ velocity }) => velocity)));
    const hits = strokes('caixa', random(2)).map(({ at }) => partOf(barOf(at + 0.01)));
    expect(hits.filter((part) => part === 'lanterns').length).toBeGreaterThan(hits.filter((part) => part === 'verse').length);
  });
});

describe('recordings', () => {
  const files = recordings();
  it('are 24 files of 48 s with poor names, each with sound in it and none near full scale', () => {
    expect(files).toHaveLength(24);
    expect(new Set(files.map(({ file }) => file)).size).toBe(24);
    for (const { channels } of files)
      for (const side of channels) {
        expect(side.length).toBe(SECONDS * RATE);
        const peak = side.reduce((highest, x) => Math.max(highest, Math.abs(x)), 0);
        expect(20 * Math.log10(peak)).toBeGreaterThan(-26);
        expect(20 * Math.log10(peak)).toBeLessThan(-9);
      }
  });
  it('beat at 104 BPM: the surdo sounds on the beat and not between', () => {
    const [surdo] = files[1].channels;
    const energy = (at: number) => surdo.subarray(Math.floor(at * RATE), Math.floor((at + 0.06) * RATE)).reduce((sum, x) => sum + x * x, 0);
    for (const bar of [0, 3, 7]) expect(energy(bar * BAR)).toBeGreaterThan(20 * energy(bar * BAR + 1.5 * BEAT));
  });
  /** The files brought in as tracks `t1` … */
  const arrival = (): Command => {
    const media = files.map((_, i) => ({
      id: `m${i}`,
      name: 'x.wav',
      sha256: '0'.repeat(64),
      rate: RATE,
      channels: 1,
      frames: SECONDS * RATE,
      encoding: 's24' as const,
      peakDb: -10,
      origin: null
    }));
    return { do: 'tracks.add', tracks: files.map(({ file }, i) => ({ id: `t${i + 1}`, name: file, colour: 7, media: media[i] })) };
  };
  it('are finished by commands alone: stems with returns of their own, a chain, cues and keys', () => {
    const session = carryOut(emptyDesk(), arrival(), ...finished(files.map((_, i) => `t${i + 1}`)));
    const { chain, mix, cues, nowhere } = treeOf(session);
    expect(chain.map(({ channel }) => channel.name)).toEqual(['FINAL', 'KNIT']);
    expect(mix.filter(({ depth }) => depth === 1).map(({ channel }) => channel.name)).toEqual([
      ...['HAND DRUMS', 'PANS', 'BRASS', 'VOICES', 'SHED', 'EFFECTS']
    ]);
    expect([...session.channel.values()].filter(({ kind }) => kind === 'return')).toHaveLength(8);
    expect(cues.map(({ channel }) => channel.name)).toEqual(['Singer', 'Drummer']);
    expect(nowhere.map(({ channel }) => channel.name)).toEqual(['Slate', 'Breath', 'Click']);
    expect(treeOf(session).vcas.map(({ channel }) => channel.name)).toEqual(['BAND', 'RHYTHM', 'PANS', 'BRASS', 'VOICES']);
    expect(levelOf(session, session.channel.get('t14')!)).toBe(session.channel.get('t14')!.faderDb - 1);
    expect([...session.link.values()].map(({ name, active }) => (active ? name : `${name}, paused`))).toEqual([
      ...['Hand drums', 'Tenor pans', 'Trumpets, paused', 'Choir', 'Drum edits']
    ]);
    expect(checkSession(session).ok).toBe(true);
  });
  it('come half-way by commands alone: four families, one shared room, the rest still loose', () => {
    const ids = files.map((_, i) => `t${i + 1}`);
    const session = carryOut(emptyDesk(), arrival(), ...halfway(ids));
    const inMix = treeOf(session)
      .mix.filter(({ depth }) => depth === 1)
      .map(({ channel }) => channel.name);
    expect(inMix).toEqual(['Slate', 'HAND DRUMS', 'PANS', 'BRASS', 'VOICES', 'Shed pair', 'Shed room']);
    expect(session.send.size).toBe(19);
  });
});

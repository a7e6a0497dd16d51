// Helpers of the engine tests: the built kernel, seeded noise, sessions made by commands, recordings from memory.
import { readFileSync } from 'node:fs';
import { createEngine, type Engine } from '../../core/engine/engine.ts';
import { kernelModule } from '../../core/kernel/kernel.ts';
import { newSession } from '../../core/session/create.ts';
import { commit } from '../../core/session/changes.ts';
import type { Command } from '../../core/commands/index.ts';
import type { Session } from '../../core/session/entities.ts';
import { planBatch } from '../../core/commands/plan.ts';

export const RATE = 48000;
export const module = kernelModule(readFileSync(new URL('../../dist/kernel.wasm', import.meta.url)));

/** White noise, ±0.25, from a seed (Mulberry32). */
export function noise(frames: number, seed: number): Float32Array {
  let state = seed;
  return Float32Array.from({ length: frames }, () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return (((t ^ (t >>> 14)) >>> 0) / 4294967296 - 0.5) / 2;
  });
}

/** Carries out commands or throws with the refusal's sentence. */
export function carryOut(session: Session, ...commands: Command[]): Session {
  const planned = planBatch(session, commands);
  if (!planned.ok) throw new Error(planned.error.message);
  commit(session, planned.value.changes);
  return session;
}

/** `tracks.add` for recordings of given widths and lengths. */
export const trackCommand = (tracks: readonly { id: string; width?: 1 | 2; frames?: number }[]): Command => ({
  do: 'tracks.add',
  tracks: tracks.map(({ id, width = 1, frames = RATE }) => ({
    id,
    name: `Track ${id}`,
    colour: 0,
    media: {
      id: `m-${id}`,
      name: `${id}.wav`,
      sha256: '0'.repeat(64),
      rate: RATE,
      channels: width,
      frames,
      encoding: 'f32' as const,
      peakDb: 0,
      origin: null
    }
  }))
});

export const emptyDesk = (): Session => newSession({ name: 'Test', rate: RATE });

/** An engine over recordings held in memory, by channel id. */
export const rig = (session: Session, recordings: ReadonlyMap<string, readonly Float32Array[]>, solo = true, keep = false): Engine =>
  createEngine({
    module,
    session,
    solo,
    keep,
    pcm: (mediaId, channel, from, into) => {
      const samples = recordings.get(mediaId.slice(2))?.[channel];
      if (samples) into.set(samples.subarray(from, from + into.length));
    }
  });

/** `frames` of outputs 1–2, asked for in blocks of `block`. */
export function play(engine: Engine, frames: number, block = 128): [Float32Array, Float32Array] {
  const out: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at < frames; at += block)
    engine.render(out[0].subarray(at, Math.min(frames, at + block)), out[1].subarray(at, Math.min(frames, at + block)));
  return out;
}

/** Peak difference in dBFS. */
export function apart(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let peak = 0;
  for (let i = 0; i < a.length; i++) peak = Math.max(peak, Math.abs(a[i] - b[i]));
  return 20 * Math.log10(peak + 1e-30);
}

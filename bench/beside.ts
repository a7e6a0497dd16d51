// Two sessions rendered side by side in one run: what a second of sound of each costs one core, and how many times more the other does.
import { readFileSync } from 'node:fs';
import { createEngine } from '../core/engine/engine.ts';
import { kernelModule } from '../core/kernel/kernel.ts';
import type { Session } from '../core/session/entities.ts';
import { cpu, RATE } from './desk.ts';

const ROUNDS = 4;
const middle = (list: readonly number[]) => [...list].sort((a, b) => a - b)[list.length >> 1];
const rounded = (value: number) => Number(value.toFixed(3));

/** Medians over seconds of CPU time: a second of each in turn, so that a machine that changes its speed meanwhile changes both. */
export function beside(
  one: Session,
  other: Session,
  seconds: number
): { readonly one: number; readonly other: number; readonly ratio: number } {
  const module = kernelModule(readFileSync('dist/kernel.wasm'));
  const loop = Float32Array.from({ length: RATE }, (_, i) => Math.sin(i * 0.05) * 0.3 * (0.2 + Math.abs(Math.sin(i * 0.0004))));
  const engines = [one, other].map((session) =>
    createEngine({
      module,
      session,
      solo: false,
      pcm: (_, __, from, into) => into.set(loop.subarray(from % (RATE - 256), (from % (RATE - 256)) + into.length))
    })
  );
  const [left, right] = [new Float32Array(1024), new Float32Array(1024)];
  const times: number[][] = [[], []];
  // The first round warms up.
  for (let round = -1; round < ROUNDS; round++) {
    for (const engine of engines) engine.locate(0);
    for (let second = 0; second < seconds; second++)
      for (const which of (second + round) % 2 ? [0, 1] : [1, 0]) {
        const began = cpu();
        for (let frames = 0; frames < RATE; frames += 1024) engines[which].render(left, right);
        if (round >= 0) times[which].push(cpu() - began);
      }
  }
  const ratio = middle(times[0].map((time, i) => times[1][i] / time));
  return { one: rounded(middle(times[0])), other: rounded(middle(times[1])), ratio: rounded(ratio) };
}

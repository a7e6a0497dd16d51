// Many clips beside one: the benchmark session whose tracks have 200 clips each, from all over their recordings, with fades, beside the same
// with one clip each; in turn, CPU time of one thread.
// npm run bench -- clips [--tracks N] [--clips N] [--gain] [--json]
import { readFileSync } from 'node:fs';
import { createEngine } from '../core/engine/engine.ts';
import { kernelModule } from '../core/kernel/kernel.ts';
import { commit, creation, removal } from '../core/session/changes.ts';
import type { Session } from '../core/session/entities.ts';
import { benchDesk, cpu, option, RATE } from './desk.ts';

const [tracks, count, seconds] = [option('tracks', 64), option('clips', 200), option('seconds', 20)];
/** Whether every other piece has a gain of its own besides. */
const louder = process.argv.includes('--gain');
const module = kernelModule(readFileSync('dist/kernel.wasm'));
const loop = Float32Array.from({ length: RATE }, (_, i) => Math.sin(i * 0.05) * 0.3 * (0.2 + Math.abs(Math.sin(i * 0.0004))));

/** Every clip in pieces of equal length, each with fades, in another order than they were. */
function inPieces(session: Session): Session {
  for (const clip of [...session.clip.values()]) {
    const length = Math.floor((seconds * RATE) / count);
    const pieces = Array.from({ length: count }, (_, i) => ({
      ...clip,
      id: `${clip.id}:${i}`,
      start: i * length,
      offset: ((i * 7) % count) * length,
      length,
      gainDb: louder ? i % 2 : 0,
      fadeIn: 96,
      fadeOut: 96
    }));
    commit(session, [removal(session, 'clip', clip.id), ...pieces.map((piece) => creation('clip', piece.id, piece))]);
  }
  return session;
}
const engineOf = (session: Session) =>
  createEngine({
    module,
    session,
    solo: false,
    pcm: (_, __, from, into) => into.set(loop.subarray(from % (RATE - 256), (from % (RATE - 256)) + into.length))
  });
const engines = [engineOf(benchDesk(tracks)), engineOf(inPieces(benchDesk(tracks)))];
const [left, right] = [new Float32Array(1024), new Float32Array(1024)];
const times: number[][] = [[], []];
/** A second of each in turn, so that a machine that changes its speed meanwhile changes both; the first round warms up. */
for (let round = -1; round < 4; round++) {
  for (const engine of engines) engine.locate(0);
  for (let second = 0; second < seconds; second++)
    for (const which of (second + round) % 2 ? [0, 1] : [1, 0]) {
      const began = cpu();
      for (let frames = 0; frames < RATE; frames += 1024) engines[which].render(left, right);
      if (round >= 0) times[which].push(cpu() - began);
    }
}
const middle = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1];
const ratios = times[0].map((one, i) => times[1][i] / one);
const result = {
  tracks,
  clips: count,
  one: Number(middle(times[0]).toFixed(3)),
  many: Number(middle(times[1]).toFixed(3)),
  ratio: Number(middle(ratios).toFixed(3))
};
if (process.argv.includes('--json')) console.log(JSON.stringify(result));
else
  console.log(
    `${tracks} tracks: ${count} clips each cost ${result.ratio} × one clip each (${result.many} s beside ${result.one} s a second of sound)`
  );

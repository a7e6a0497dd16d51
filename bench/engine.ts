// The engine offline, one thread: CPU time of the benchmark session as a ratio to real time, beside the same graph in plain
// TypeScript (the tests' float64 oracle), and silence after music beside music.
// npm run bench -- engine [--tracks N] [--json]
import { readFileSync } from 'node:fs';
import { createEngine } from '../core/engine/engine.ts';
import { kernelModule } from '../core/kernel/kernel.ts';
import { graphOracle } from '../tests/oracle/graph.ts';
import { benchDesk, cpu, option, RATE, SECONDS } from './desk.ts';

const count = option('tracks', 64);
const loop = Float32Array.from({ length: RATE }, (_, i) => Math.sin(i * 0.05) * 0.3 * (0.2 + Math.abs(Math.sin(i * 0.0004))));
let silent = false;
const engine = createEngine({
  module: kernelModule(readFileSync('dist/kernel.wasm')),
  session: benchDesk(count),
  solo: false,
  pcm: (_, __, from, into) => {
    if (!silent) into.set(loop.subarray(from % (RATE - 256), (from % (RATE - 256)) + into.length));
  }
});
const [left, right] = [new Float32Array(1024), new Float32Array(1024)];
const run = (seconds: number): number => {
  const began = cpu();
  for (let frames = 0; frames < RATE * seconds; frames += 1024) engine.render(left, right);
  return seconds / (cpu() - began);
};
/** The middle one of so many one-second runs: other users of the machine disturb single seconds, the sum and the best alike. */
const middle = (seconds: number): number => Array.from({ length: seconds }, () => run(1)).sort((a, b) => a - b)[seconds >> 1];
run(2);
engine.locate(0);
const xRealtime = middle(SECONDS);
silent = true;
run(2);
const silence = middle(10);

// The plain graph is slow and linear in time: a second of it is enough to compare.
const plainSeconds = 1;
const recordings = new Map([...benchDesk(count).channel.keys()].filter((id) => id.startsWith('t')).map((id) => [id, [loop]]));
const began = cpu();
graphOracle(benchDesk(count), recordings, RATE * plainSeconds, RATE);
const plain = plainSeconds / (cpu() - began);

const result = {
  tracks: count,
  xRealtime: Number(xRealtime.toFixed(1)),
  silenceAfterMusic: Number((silence / xRealtime).toFixed(2)),
  plainTypeScript: Number(plain.toFixed(3)),
  overPlain: Number((xRealtime / plain).toFixed(1))
};
if (process.argv.includes('--json')) console.log(JSON.stringify(result));
else
  console.log(
    `${result.tracks} tracks: ${result.xRealtime} × real time on one core; plain TypeScript ${result.plainTypeScript} ×, so ${result.overPlain} times as fast; ` +
      `silence after music runs at ${result.silenceAfterMusic} of the speed of music`
  );

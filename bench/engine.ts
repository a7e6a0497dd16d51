// Bench of the engine, offline, one thread: 64 tracks with a four-band equaliser and three sends each, ten buses, two
// reverbs, through the mix bus; CPU time as a ratio to real time, beside the float64 oracle's equaliser in plain TypeScript.
import { readFileSync } from 'node:fs';
import { plan } from '../core/commands/plan.ts';
import type { Command } from '../core/commands/index.ts';
import { valuesOf } from '../core/dsp/params.ts';
import { createEngine } from '../core/engine/engine.ts';
import { kernelModule } from '../core/engine/kernel.ts';
import { newSession } from '../core/session/birth.ts';
import { commit } from '../core/session/changes.ts';
import { eqOracle } from '../tests/oracle/eq.ts';

const option = (name: string, otherwise: number) => Number(process.argv[process.argv.indexOf(`--${name}`) + 1] || otherwise) || otherwise;
const TRACKS = process.argv.includes('--tracks') ? option('tracks', 64) : 64;
const SECONDS = 30;
const RATE = 48000;
const BANDS = { 'b1.on': 1, 'b1.freq': 60, 'b2.on': 1, 'b2.gain': 2, 'b3.on': 1, 'b3.gain': -3, 'b5.on': 1, 'b5.gain': 2.5 };

const session = newSession({ name: 'Bench', rate: RATE });
const carryOut = (...commands: Command[]) => {
  for (const command of commands) {
    const planned = plan(session, command);
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
  }
};
const ids = Array.from({ length: TRACKS }, (_, i) => `t${i}`);
carryOut(
  {
    do: 'tracks.add',
    tracks: ids.map((id) => ({
      id,
      name: id,
      colour: 0,
      media: {
        id: `m${id}`,
        name: id,
        sha256: '0'.repeat(64),
        rate: RATE,
        channels: 1,
        frames: RATE * SECONDS,
        encoding: 'f32' as const,
        peakDb: 0
      }
    }))
  },
  ...Array.from({ length: 10 }, (_, i): Command => ({
    do: 'buses.add',
    id: `b${i}`,
    name: `B${i}`,
    members: ids.filter((_, n) => n % 10 === i)
  })),
  ...['r0', 'r1', 'r2'].map((id, i): Command => ({ do: 'returns.add', id, name: id, effect: i < 2 ? 'reverb' : 'none' })),
  {
    do: 'sends.set',
    sends: ids.flatMap((source) =>
      ['r0', 'r1', 'r2'].map((target, i) => ({ source, target, level: -12, tap: i ? ('post' as const) : ('pre' as const) }))
    )
  },
  ...[...ids, ...Array.from({ length: 10 }, (_, i) => `b${i}`), 'mix'].flatMap((channelId): Command[] => [
    { do: 'inserts.add', id: `eq-${channelId}`, channelId, type: 'eq' },
    { do: 'inserts.set', id: `eq-${channelId}`, values: BANDS }
  ])
);
const loop = Float32Array.from({ length: RATE }, (_, i) => Math.sin(i * 0.05) * 0.1);
const engine = createEngine({
  module: kernelModule(readFileSync('dist/kernel.wasm')),
  session,
  solo: false,
  pcm: (_, __, from, into) => into.set(loop.subarray(from % (RATE - 256), (from % (RATE - 256)) + into.length))
});

const cpu = () => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1e6;
};
const [left, right] = [new Float32Array(1024), new Float32Array(1024)];
for (let i = 0; i < 50; i++) engine.render(left, right);
const began = cpu();
for (let frames = 0; frames < RATE * SECONDS; frames += 1024) engine.render(left, right);
const xRealtime = SECONDS / (cpu() - began);

const one = Float64Array.from({ length: RATE }, (_, i) => loop[i]);
const values = valuesOf('eq', BANDS);
eqOracle(one, values, RATE);
const plainBegan = cpu();
for (let i = 0; i < 4; i++) eqOracle(one, values, RATE);
const plain = 4 / (cpu() - plainBegan) / (TRACKS + 22);

console.log(
  JSON.stringify({
    bench: 'engine',
    tracks: TRACKS,
    xRealtime: Number(xRealtime.toFixed(1)),
    plainEqualisersAlone: Number(plain.toFixed(2)),
    ratio: Number((xRealtime / plain).toFixed(1))
  })
);

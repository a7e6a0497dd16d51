import { readFileSync } from 'node:fs';
import { createEngine } from '../core/engine/engine.ts';
import { kernelModule } from '../core/kernel/kernel.ts';
import { benchDesk, RATE } from './desk.ts';
export function make(count: number, wasm: string) {
  const loop = Float32Array.from({ length: RATE }, (_, i) => Math.sin(i * 0.05) * 0.3 * (0.2 + Math.abs(Math.sin(i * 0.0004))));
  const engine = createEngine({ module: kernelModule(readFileSync(wasm)), session: benchDesk(count), solo: false,
    pcm: (_: any, __: any, from: number, into: Float32Array) => into.set(loop.subarray(from % (RATE - 256), (from % (RATE - 256)) + into.length)) });
  const [left, right] = [new Float32Array(1024), new Float32Array(1024)];
  return (frames: number) => { const t = performance.now(); for (let f = 0; f < frames; f += 1024) engine.render(left, right); return (performance.now() - t) / frames * 64 * 1000; };
}

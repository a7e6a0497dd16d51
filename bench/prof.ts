import { readFileSync } from 'node:fs';
const Real = WebAssembly.Instance;
let last: { ops: number; count: number; frame: bigint; phase: number; exports: any } | null = null;
(WebAssembly as any).Instance = function (m: any, i: any) {
  const inst = new Real(m, i);
  const exports: any = { ...inst.exports };
  exports.run = (ops: number, count: number, frame: bigint, phase: number) => { last = { ops, count, frame, phase, exports: inst.exports }; (inst.exports as any).run(ops, count, frame, phase); };
  return { exports };
};
const { createEngine } = await import('../core/engine/engine.ts');
const { kernelModule } = await import('../core/kernel/kernel.ts');
const { benchDesk, option, RATE } = await import('./desk.ts');
const count = option('tracks', 64);
const loop = Float32Array.from({ length: RATE }, (_, i) => Math.sin(i * 0.05) * 0.3 * (0.2 + Math.abs(Math.sin(i * 0.0004))));
const engine = createEngine({ module: kernelModule(readFileSync('dist/kernel.wasm')), session: benchDesk(count), solo: false,
  pcm: (_: any, __: any, from: number, into: Float32Array) => into.set(loop.subarray(from % (RATE - 256), (from % (RATE - 256)) + into.length)) });
const [left, right] = [new Float32Array(1024), new Float32Array(1024)];
import { createHash } from 'node:crypto';
const hash = createHash('sha256');
for (let f = 0; f < RATE * 2; f += 1024) { engine.render(left, right); hash.update(left); hash.update(right); }
console.log('hash', hash.digest('hex').slice(0, 16));
let t0 = performance.now(); for (let f = 0; f < RATE * 5; f += 1024) engine.render(left, right); console.log('engine', (5000 / (performance.now() - t0)).toFixed(1), 'x; period', ((performance.now() - t0) / (RATE * 5 / 64) * 1000).toFixed(1), 'µs');

const { ops, count: n, frame, exports } = last!;
const W = exports.OP_WORDS.value;
const i32 = () => new Int32Array(exports.memory.buffer);
const all = i32().slice(ops >> 2, (ops >> 2) + n * W);
const names: Record<number, string> = {};
for (const [k, v] of Object.entries(exports) as any) if (/^OP_/.test(k) && k !== 'OP_WORDS' && k !== 'OP_PROCESSOR') names[v.value] = k;
for (const k of ['eq', 'comp', 'limiter', 'trim', 'delay', 'reverb', 'outside']) if (exports[`${k}Op`]) names[exports[`${k}Op`]() + exports.OP_PROCESSOR.value] = `${k}!`;
const at = exports.memory.buffer.byteLength; exports.memory.grow(Math.ceil(all.byteLength / 65536) + 1);
const by = new Map<number, number[]>();
for (let i = 0; i < n; i++) { const c = all[i * W]; by.set(c, [...(by.get(c) ?? []), i]); }
const time = (list: number[]) => {
  const m = i32(); list.forEach((op, i) => m.set(all.subarray(op * W, op * W + W), (at >> 2) + i * W));
  const runs: number[] = [];
  let f = frame;
  for (let r = 0; r < 15; r++) { const t = performance.now(); for (let k = 0; k < 100; k++) { f += 64n; exports.run(at, list.length, f, k & 3); } runs.push((performance.now() - t) * 10); }
  runs.sort((a, b) => a - b); return runs[3];
};
let sum = 0;
const whole = time(Array.from({ length: n }, (_, i) => i));
for (const [c, list] of by) { const t = time(list); sum += t; console.log((names[c] ?? String(c)).padEnd(12), String(list.length).padStart(6), t.toFixed(2).padStart(9), 'µs', (t / list.length * 1000).toFixed(0).padStart(7), 'ns each'); }
const again = time(Array.from({ length: n }, (_, i) => i));
console.log('again', again.toFixed(1), 'sum', sum.toFixed(1), 'whole', whole.toFixed(1), 'µs a period; real time', (64 / RATE * 1e6 / whole).toFixed(1));

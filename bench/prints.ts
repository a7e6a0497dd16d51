// Rendering for prints, CPU time alone: stems, mix and versions from one pass beside the mix alone, and beside a pass for each file.
// npm run bench -- prints [--tracks N] [--stems N] [--versions N] [--rounds N] [--seconds N] [--json]
import { readFileSync } from 'node:fs';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { kernelModule } from '../core/kernel/kernel.ts';
import { plannedFiles, readOrder, type FileOrder, type PlannedFile } from '../core/prints/order.ts';
import { passesOf, type Pass } from '../core/prints/passes.ts';
import { cutOf } from '../core/prints/cut.ts';
import { costsOf } from '../core/prints/measure.ts';
import { crossingOf, renderAhead, renderPass } from '../core/prints/render.ts';
import { exchangeOver, shareRing, type Share } from '../core/engine/share.ts';
import { benchDesk, carryOut, cpu, many, option, RATE } from './desk.ts';

const [tracks, stems, versions] = [option('tracks', 64), option('stems', 8), option('versions', 6)];
const [rounds, seconds] = [option('rounds', 9), option('seconds', 3)];
/** Of what is rendered on two cores: long enough for plans and compilers not to count. */
const [pairs, long] = [option('pairs', 3), option('long', 60)];
const module = kernelModule(readFileSync('dist/kernel.wasm'));
const loop = Float32Array.from({ length: RATE }, (_, i) => Math.sin(i * 0.05) * 0.3 * (0.2 + Math.abs(Math.sin(i * 0.0004))));
const pcm = (_: string, __: number, from: number, into: Float32Array) =>
  into.set(loop.subarray(from % (RATE - 256), (from % (RATE - 256)) + into.length));

const session = benchDesk(tracks, stems);
carryOut(
  session,
  // Each return into a stem, so that the stems are sound.
  ...many(6, 'r').map((id, i) => ({ do: 'channels.route' as const, ids: [id], to: `s${i % stems}` })),
  { do: 'stems.set', ids: many(stems, 's'), on: true },
  ...many(versions, 'v').map((id, i) => ({
    do: 'versions.add' as const,
    id,
    name: id,
    stems: { [`s${i % stems}`]: i % 2 ? -3 : ('-inf' as const) }
  }))
);

function filesOf(...files: FileOrder[]): PlannedFile[] {
  const order = readOrder({ files });
  if (!order.ok) throw new Error(order.error.message);
  const planned = plannedFiles(session, order.value);
  if (!planned.ok) throw new Error(planned.error.message);
  return planned.value;
}
/** CPU seconds that a pass takes for `seconds`, plans aside. */
function timed(pass: Pass): number {
  const blocks = renderPass(module, pass, pcm, { start: 0, from: 0, to: seconds * RATE }, 'none');
  blocks.next();
  const began = cpu();
  for (const _ of blocks);
  return cpu() - began;
}
const [mix] = passesOf(session, filesOf({ kind: 'mix' }));
const all = filesOf({ kind: 'stem' }, { kind: 'mix' }, { kind: 'version' });
const [together] = passesOf(session, all);
if (!isMainThread) {
  const given = workerData as { readonly share?: Share };
  if (given.share) {
    parentPort!.postMessage('ready');
    renderAhead(module, together, pcm, { start: 0, from: 0, to: long * RATE }, given.share);
  } else {
    parentPort!.once('message', () => {
      for (const _ of renderPass(module, mix, pcm, { start: 0, from: 0, to: long * RATE }, 'none'));
      parentPort!.postMessage('done');
    });
    parentPort!.postMessage('ready');
  }
} else await main();

async function main(): Promise<void> {
  const apart = all.map((file) => passesOf(session, [file])[0]);

  const middle = (list: readonly number[]) => [...list].sort((a, b) => a - b)[list.length >> 1];
  const shares: number[] = [];
  const naive: number[] = [];
  timed(mix);
  timed(together);
  for (let round = 0; round < rounds; round++) {
    const first = round % 2 === 0;
    const before = first ? timed(mix) : 0;
    const whole = timed(together);
    const alone = first ? before : timed(mix);
    shares.push(whole / alone);
    // One of the separate passes a round: they are alike.
    naive.push((timed(apart[round % apart.length]) * apart.length) / alone);
  }
  // On two cores: a share rendered ahead in a thread, beside all of it in one; and two passes side by side beside one after the other.
  // Wall time, since that is what is shared.
  const wall = (act: () => void): number => {
    const began = performance.now();
    act();
    return performance.now() - began;
  };
  const span = { start: 0, from: 0, to: long * RATE };
  const drain = (pass: Pass, share?: Share) => {
    for (const _ of renderPass(module, pass, pcm, span, 'none', 4096, share));
  };
  /** A thread that does part of the work of one render, or a render of its own; `go` starts it when it has its plan ready. */
  const thread = (what: object) => new Worker(new URL(import.meta.url), { workerData: what });
  const costs = costsOf(module, together, pcm, span, () => performance.now());
  const cut = cutOf(together, costs);
  const shares2: number[] = [];
  if (cut) {
    const crossing = crossingOf(module, together, cut.first);
    for (let round = 0; round < pairs; round++) {
      const alone = wall(() => drain(together));
      const ring = shareRing(crossing);
      const share = { part: 1 as const, first: cut.first, ring };
      const worker = thread({ share });
      await new Promise((resolve) => worker.once('message', resolve));
      shares2.push(alone / wall(() => drain(together, share)));
      exchangeOver(ring).stop();
      await worker.terminate();
    }
  }
  const passes2: number[] = [];
  for (let round = 0; round < pairs; round++) {
    const alone = wall(() => drain(mix)) + wall(() => drain(mix));
    const worker = thread({ whole: true });
    await new Promise((resolve) => worker.once('message', resolve));
    const began = performance.now();
    worker.postMessage('go');
    const other = new Promise((resolve) => worker.once('message', resolve));
    drain(mix);
    await other;
    passes2.push(alone / (performance.now() - began));
    await worker.terminate();
  }

  const result = {
    ...{ tracks, stems, versions, files: all.length },
    onePass: Number(middle(shares).toFixed(3)),
    separatePasses: Number(middle(naive).toFixed(1)),
    /** Times as fast as one core; null where no cut is worth it. */
    oneRenderOnTwoCores: shares2.length ? Number(middle(shares2).toFixed(2)) : null,
    twoPassesOnTwoCores: Number(middle(passes2).toFixed(2))
  };
  if (process.argv.includes('--json')) console.log(JSON.stringify(result));
  else
    console.log(
      `${tracks} tracks, ${all.length} files (${stems} stems, mix, ${versions} versions): one pass takes ${result.onePass} × the mix alone (bar 1.3, goal 1.15); a pass for each ${result.separatePasses} ×. ` +
        `Two cores: one render ${result.oneRenderOnTwoCores} × one core (bar 1.5), two passes ${result.twoPassesOnTwoCores} × (bar 1.8)`
    );
}

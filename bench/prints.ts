// Rendering for prints, CPU time alone: stems, mix and versions from one pass beside the mix alone, and beside a pass for each file.
// npm run bench -- prints [--tracks N] [--stems N] [--versions N] [--rounds N] [--seconds N] [--json]
import { readFileSync } from 'node:fs';
import { kernelModule } from '../core/kernel/kernel.ts';
import { plannedFiles, readOrder, type FileOrder, type PlannedFile } from '../core/prints/order.ts';
import { passesOf, type Pass } from '../core/prints/passes.ts';
import { renderPass } from '../core/prints/render.ts';
import { benchDesk, carryOut, cpu, many, option, RATE } from './desk.ts';

const [tracks, stems, versions] = [option('tracks', 64), option('stems', 8), option('versions', 6)];
const [rounds, seconds] = [option('rounds', 9), option('seconds', 3)];
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
const result = {
  ...{ tracks, stems, versions, files: all.length },
  onePass: Number(middle(shares).toFixed(3)),
  separatePasses: Number(middle(naive).toFixed(1))
};
if (process.argv.includes('--json')) console.log(JSON.stringify(result));
else
  console.log(
    `${tracks} tracks, ${all.length} files (${stems} stems, mix, ${versions} versions): one pass takes ${result.onePass} × the mix alone (bar 1.3, goal 1.15); a pass for each ${result.separatePasses} ×`
  );

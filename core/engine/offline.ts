// Offline rendering: a session from its start to its end and on until the tail has died away.
import type { Session } from '../session/entities.ts';
import { settingsOf } from '../session/entities.ts';
import { endOf } from '../session/select.ts';
import { mixChain } from '../routing/graph.ts';
import { createEngine, type Pcm } from './engine.ts';
import type { KernelModule } from '../kernel/kernel.ts';
import { PERIOD } from '../kernel/period.ts';

/** A tail has died away when everything stayed under this for `TAIL_SILENCE` seconds, and no delay line holds what would not: −90 dBFS. */
const TAIL_LEVEL = 10 ** (-90 / 20);
const TAIL_SILENCE = 1;
const LOOK_AGAIN = 0.125;
/** The longest tail, in seconds. */
export const TAIL_LIMIT = 30;

export type MixBlock = { readonly left: Float32Array; readonly right: Float32Array; readonly done: number; readonly end: number };

/** The mix after the last stage of its chain, block by block; solo does not matter. The arrays are used again. */
export function* renderMix(module: KernelModule, session: Session, pcm: Pcm, block = 4096): Generator<MixBlock> {
  const { rate } = settingsOf(session);
  const engine = createEngine({ module, session, pcm, solo: false });
  const end = endOf(session);
  const left = new Float32Array(block + PERIOD);
  const right = new Float32Array(block + PERIOD);
  let quiet = 0;
  /** Frames given out, and frames still to drop: what the last stage's latency puts before the first. */
  let at = 0;
  const last = mixChain(session).at(-1)!.id;
  let latency = engine.latency(last);
  const finished = () => at >= end && (quiet >= TAIL_SILENCE * rate || at >= end + TAIL_LIMIT * rate);
  while (!finished()) {
    let filled = 0;
    while (filled < block && !finished()) {
      engine.period();
      const skip = Math.min(latency, PERIOD);
      latency -= skip;
      const l = engine.tap(last, 0)!.subarray(skip);
      const r = engine.tap(last, 1)!.subarray(skip);
      left.set(l, filled);
      right.set(r, filled);
      let peak = 0;
      for (let i = 0; i < l.length; i++) peak = Math.max(peak, Math.abs(l[i]), Math.abs(r[i]));
      quiet = peak < TAIL_LEVEL && at >= end ? quiet + l.length : 0;
      // An echo on its way has not died away: it is looked for again a little later.
      if (quiet >= TAIL_SILENCE * rate && engine.holding(TAIL_LEVEL)) quiet -= LOOK_AGAIN * rate;
      filled += l.length;
      at += l.length;
    }
    yield { left: left.subarray(0, filled), right: right.subarray(0, filled), done: at, end: Math.max(end, at) };
  }
}

// Rendering a pass: all its outlets side by side, each with its latency taken out, from the same start to the same end.
import { createEngine, type FadesAt, type Pcm } from '../engine/engine.ts';
import type { Share } from '../engine/share.ts';
import type { KernelModule } from '../kernel/kernel.ts';
import { PERIOD } from '../kernel/period.ts';
import { settingsOf } from '../session/entities.ts';
import { endOf } from '../session/select.ts';
import type { Frames } from '../units.ts';
import type { PrintOrder, Range } from './order.ts';
import type { Pass } from './passes.ts';

/** A tail has died away when everything stayed under this for `TAIL_SILENCE` seconds, and no delay line holds what would not: −90 dBFS. */
const TAIL_LEVEL = 10 ** (-90 / 20);
const TAIL_SILENCE = 1;
const LOOK_AGAIN = 0.125;
/** The longest tail of which the end is waited for, in seconds. */
export const TAIL_LIMIT = 30;

export type Span = {
  /** Timeline frame at which rendering begins, and the one with which the files do. */
  readonly start: Frames;
  readonly from: Frames;
  /** Where sources end and the tail begins. */
  readonly to: Frames;
  /** Of what was recorded elsewhere. */
  readonly fadesAt?: FadesAt;
};
export type Block = {
  /** By outlet, left and right; the arrays are used again. */
  readonly sides: readonly (readonly [Float32Array, Float32Array])[];
  readonly frames: Frames;
  /** Frames rendered so far, those before the file's first included, and those to render as far as is known. */
  readonly done: Frames;
  readonly end: Frames;
};

/** What is rendered for a range, or, with null, for all of the session. A range is rendered from the session's start unless with a pre-roll. */
export function spanOf(pass: Pass, { preRoll }: Pick<PrintOrder, 'preRoll'>, range: Range | null): Span {
  if (!range) return { start: 0, from: 0, to: endOf(pass.session) };
  const { rate } = settingsOf(pass.session);
  const start = preRoll === null ? 0 : Math.max(0, range.from - Math.round(preRoll * rate));
  return { start: start - (start % PERIOD), from: range.from, to: range.to };
}

type Setting = { readonly to: Frames; readonly fadesAt?: FadesAt; readonly share?: Share };
/** The engine of a pass: no solo, and nothing new after the end. */
export const engineOf = (module: KernelModule, { session, outlets }: Pass, pcm: Pcm, { to, fadesAt, share }: Setting) =>
  createEngine({
    module,
    session,
    pcm,
    solo: false,
    until: to,
    fadesAt,
    share,
    // What is taken from the other engine's share has to cross, whatever the tap.
    listened: share ? outlets : outlets.filter(({ tap }) => tap !== 'post')
  });

/** The share of a pass that is rendered ahead on another core, until the other engine wants no more. */
export function renderAhead(module: KernelModule, pass: Pass, pcm: Pcm, { start, to, fadesAt }: Span, share: Share): void {
  const engine = engineOf(module, pass, pcm, { to, fadesAt, share: { ...share, part: 0, tail: { from: to - start, level: TAIL_LEVEL } } });
  if (start > 0) engine.locate(start);
  while (!engine.ended()) engine.period();
}

/** Buffers that a cut lets cross, which the ring has to hold. */
export const crossingOf = (module: KernelModule, pass: Pass, first: ReadonlySet<string>): number =>
  engineOf(module, pass, () => {}, { to: 0, share: { part: 1, first, ring: null } }).crossing();

/**
 * Blocks of a pass, the files' frames only; with `share`, what another engine renders ahead is taken from its ring.
 * `for (const { sides, frames } of renderPass(module, pass, pcm, spanOf(pass, order, null), 'decay'))`
 */
export function* renderPass(
  module: KernelModule,
  pass: Pass,
  pcm: Pcm,
  { start, from, to, fadesAt }: Span,
  tail: PrintOrder['tail'],
  block = 4096,
  share?: Share
): Generator<Block> {
  const { rate } = settingsOf(pass.session);
  const engine = engineOf(module, pass, pcm, { to, fadesAt, share });
  if (start > 0) engine.locate(start);
  const late = pass.outlets.map(({ id, tap }) => engine.latency(id, tap));
  const latest = Math.max(0, ...late);
  /** What is held of each outlet: from the next block's first frame to what the earliest has. */
  const held = late.map((own) => [0, 1].map(() => new Float32Array(block + latest - own + PERIOD)) as [Float32Array, Float32Array]);
  // No move comes in between, so that each stays where it is.
  const taps = pass.outlets.map(({ id, tap }) => [engine.tap(id, 0, tap), engine.tap(id, 1, tap)] as const);
  /** How many frames each has been quiet for. */
  const quiet = new Float64Array(pass.outlets.length);
  const fixed = tail === 'decay' ? null : to - from + (tail === 'none' ? 0 : Math.round(tail * rate));
  const most = fixed ?? to - from + TAIL_LIMIT * rate;
  /** Frames of the files given out, and timeline frames since the start that all outlets have. */
  let given = 0;
  let have = -latest;
  const first = from - start;
  const ended = () => {
    const at = have - first;
    if (fixed !== null) return at >= fixed;
    if (at < to - from) return false;
    return at >= most || quiet.every((frames) => frames >= TAIL_SILENCE * rate);
  };
  let base = first;
  for (;;) {
    while (have < base + block && !ended()) {
      engine.period();
      const rendered = engine.rendered();
      have = rendered - latest;
      for (let i = 0; i < late.length; i++) {
        const at = rendered - PERIOD - late[i] - base;
        if (at + PERIOD <= 0) continue;
        const tailing = fixed === null && base + at >= to - start;
        let peak = 0;
        for (const side of [0, 1] as const) {
          const samples = taps[i][side];
          if (!samples) continue;
          if (at >= 0) held[i][side].set(samples, at);
          else held[i][side].set(samples.subarray(-at), 0);
          if (tailing) for (const x of samples) peak = Math.max(peak, Math.abs(x));
        }
        quiet[i] = tailing && peak < TAIL_LEVEL ? quiet[i] + PERIOD : 0;
      }
      // An echo on its way has not died away: it is looked for again a little later.
      if (have - first >= to - from && quiet.every((frames) => frames >= TAIL_SILENCE * rate) && engine.holding(TAIL_LEVEL))
        for (let i = 0; i < quiet.length; i++) quiet[i] = Math.min(quiet[i], (TAIL_SILENCE - LOOK_AGAIN) * rate);
    }
    const frames = Math.max(0, Math.min(block, have - base, most - given));
    if (frames > 0) {
      given += frames;
      yield {
        sides: held.map(([l, r]) => [l.subarray(0, frames), r.subarray(0, frames)] as const),
        frames,
        done: first + given,
        end: Math.max(first + given, first + (fixed ?? to - from))
      };
      base += frames;
      for (const sides of held)
        for (const side of sides) {
          side.copyWithin(0, frames);
          side.fill(0, side.length - frames);
        }
    }
    if (frames < block) return;
  }
}

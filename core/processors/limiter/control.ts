// The limiter's control: ceiling and drive as ramps, the window fixed by the rate.
import { constantsOf, opOf, partOf } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import { advance, aim, glideAt, writeRamp, type Glide } from '../glide.ts';
import { oneByOne, processor, resultFor, type Control } from '../processor.ts';
import { valuesBy } from '../spec.ts';
import { limiterLatency, limiterSpecs, limiterWindow } from './params.ts';

/** What the kernel part exports: it writes the interpolator's table. */
type Part = { limiterTable(at: number): void };

type LimiterControl = Control & {
  readonly at: number;
  readonly left: number;
  readonly mono: boolean;
  readonly ceiling: Glide;
  readonly drive: Glide;
};

/** A bypassed limiter's ceiling: nothing reaches it, and its latency stays. */
const OPEN_DB = 60;

export const limiter = processor({
  type: 'limiter',
  title: 'limiter',
  specs: limiterSpecs,
  linked: true,
  reduces: true,
  bends: () => true,
  latency: limiterLatency,
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate } = builder;
      const LIMITER = constantsOf(kernel, 'LIMITER', [
        ...(['window', 'left', 'release', 'ceiling', 'drive', 'deepest', 'state', 'lastLeft', 'lastRight', 'bytes', 'tableFloats'] as const)
      ]);
      const window = limiterWindow(rate);
      const signal = (limiterLatency(rate) + PERIOD) * 4;
      const history = (window + PERIOD) * 4;
      const at = kernel.reserve(LIMITER.bytes);
      const [left, right, needed, gains, table] = [signal, signal, history, history, LIMITER.tableFloats * 4].map((bytes) =>
        kernel.reserve(bytes)
      );
      // The last vector of a pass reads past its end.
      const work = kernel.reserve(history + 16, true);
      const result = resultFor(builder, pair);
      builder.op(opOf(kernel, 'limiter'), ...pair, ...result, at);
      const ceiling = glideAt(0);
      const drive = glideAt(0);
      let release = 0;
      const mono = pair[0] === pair[1];
      const control: LimiterControl = {
        at,
        left,
        mono,
        ceiling,
        drive,
        parts: () => [ceiling, drive],
        aim: (given, _site, memory, snap) => {
          const values = valuesBy(limiterSpecs, given.params);
          aim(ceiling, memory.kernel.gainOf(given.bypass ? OPEN_DB : values.ceiling), snap);
          aim(drive, memory.kernel.gainOf(given.bypass ? 0 : values.drive), snap);
          release = values.release;
        },
        adopt: (other, from, to) => {
          const before = other as LimiterControl;
          Object.assign(ceiling, before.ceiling);
          Object.assign(drive, before.drive);
          for (let word = LIMITER.state; word < LIMITER.bytes; word += 4) to.i32[(at + word) >> 2] = from.i32[(before.at + word) >> 2];
          const floats = (table - left) >> 2;
          to.f32.set(from.f32.subarray(before.left >> 2, (before.left >> 2) + floats), left >> 2);
          // What was mono goes on as two equal sides.
          if (!before.mono || mono) return;
          to.f32.copyWithin(right >> 2, left >> 2, right >> 2);
          to.f32.copyWithin((at + LIMITER.lastRight) >> 2, (at + LIMITER.lastLeft) >> 2, (at + LIMITER.lastRight) >> 2);
        },
        reduction: ({ kernel: { dbOf }, f32 }) => {
          const cell = (at + LIMITER.deepest) >> 2;
          const deepest = f32[cell];
          f32[cell] = 0;
          return dbOf(1 - deepest);
        }
      };
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: ({ kernel: running, i32, f32 }) => {
            i32[(at + LIMITER.window) >> 2] = window;
            i32.set([left, right, needed, gains, table, work], (at + LIMITER.left) >> 2);
            f32.fill(1, needed >> 2, table >> 2);
            partOf<Part>(running).limiterTable(table);
          },
          advance: ({ kernel: running, f32 }) => {
            f32[(at + LIMITER.release) >> 2] = running.follow(release, rate);
            let moved = false;
            for (const [glide, offset] of [
              [ceiling, LIMITER.ceiling],
              [drive, LIMITER.drive]
            ] as const) {
              const was = glide.value;
              moved = advance(glide) || moved;
              writeRamp(f32, at + offset, was, glide.value);
            }
            return moved;
          }
        }
      };
    })
});

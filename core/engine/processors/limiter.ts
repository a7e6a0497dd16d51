// The limiter's control: ceiling and drive as ramps, the window fixed by the rate.
import { limiterLatency, limiterWindow } from '../../dsp/limiter.ts';
import { valuesOf } from '../../dsp/params.ts';
import { advance, aim, glideAt } from '../glide.ts';
import { LIMITER, OP, PERIOD } from '../layout.ts';
import { oneByOne, resultFor, type Control, type Processor } from './processor.ts';

/** A bypassed limiter's ceiling: nothing reaches it, and its latency stays. */
const OPEN_DB = 60;

export const limiterProcessor: Processor = {
  latency: limiterLatency,
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate } = builder;
      const window = limiterWindow(rate);
      const signal = (limiterLatency(rate) + PERIOD) * 4;
      const history = (window + PERIOD) * 4;
      const at = kernel.reserve(LIMITER.bytes);
      const [left, right, needed, gains, table] = [signal, signal, history, history, LIMITER.tableFloats * 4].map((bytes) =>
        kernel.reserve(bytes)
      );
      const result = resultFor(builder, pair);
      builder.op(OP.limiter, ...pair, ...result, at);
      const ceiling = glideAt(0);
      const drive = glideAt(0);
      let release = 0;
      const mono = pair[0] === pair[1];
      const control: Control & { at: number; left: number; right: number; mono: boolean; ceiling: typeof ceiling; drive: typeof drive } = {
        at,
        left,
        right,
        mono,
        ceiling,
        drive,
        parts: () => [ceiling, drive],
        aim: (given, _site, memory, snap) => {
          const values = valuesOf('limiter', given.params);
          aim(ceiling, memory.kernel.gainOf(given.bypass ? OPEN_DB : values.ceiling), snap);
          aim(drive, memory.kernel.gainOf(given.bypass ? 0 : values.drive), snap);
          release = values.release;
        },
        adopt: (other, from, to) => {
          const before = other as typeof control;
          Object.assign(ceiling, before.ceiling);
          Object.assign(drive, before.drive);
          for (const half of [0, 4]) to.i32[(at + LIMITER.state + half) >> 2] = from.i32[(before.at + LIMITER.state + half) >> 2];
          const floats = (table - left) >> 2;
          to.f32.set(from.f32.subarray(before.left >> 2, (before.left >> 2) + floats), left >> 2);
          // What was mono goes on as two equal sides.
          if (before.mono && !mono) to.f32.copyWithin(right >> 2, left >> 2, right >> 2);
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
            i32.set([window, left, right, needed, gains, table], at >> 2);
            f32.fill(1, needed >> 2, table >> 2);
            running.limiterTable(table);
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
              f32[(at + offset) >> 2] = was;
              f32[((at + offset) >> 2) + 1] = (glide.value - was) / PERIOD;
            }
            return moved;
          }
        }
      };
    })
};

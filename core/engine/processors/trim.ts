// The trim's control: a matrix of four ramps, after an audible delay in frames.
import { valuesOf } from '../../dsp/params.ts';
import { TRIM_DELAY, trimMatrix } from '../../dsp/trim.ts';
import { advance, aim, glideAt } from '../glide.ts';
import { OP, PERIOD, powerOfTwo, slackAt } from '../layout.ts';
import { laneBefore } from './lanes.ts';
import { oneByOne, resultFor, type Control, type Pair, type Processor } from './processor.ts';

const ringAt = (rate: number) => powerOfTwo(TRIM_DELAY + slackAt(rate));

export const trimProcessor: Processor = {
  latency: () => 0,
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate } = builder;
      const ringFrames = ringAt(rate);
      const mono = pair[0] === pair[1];
      const at = kernel.reserve(32);
      const held = resultFor(builder, pair);
      const result = resultFor(builder, pair);
      const sides = mono ? [0] : [0, 1];
      const rings = sides.map(() => kernel.reserve(ringFrames * 4, true));
      const frames = kernel.reserve(4);
      for (const side of sides) builder.op(OP.hold, pair[side], held[side], rings[side], ringFrames - 1, frames);
      builder.op(OP.matrix, ...held, ...result, at);
      const cells = [0, 1, 2, 3].map(() => glideAt(0));
      /** 1 while the delay stands; fades to 0 and back around a change of it. */
      const fade = glideAt(1);
      const wait = { now: 0, wanted: 0 };
      const control: Control & { cells: typeof cells; rings: number[]; fade: typeof fade; wait: typeof wait } = {
        cells,
        rings,
        fade,
        wait,
        parts: () => [...cells, fade, wait],
        aim: (given, _site, memory, snap) => {
          const values = valuesOf('trim', given.params);
          const gain = given.bypass ? 1 : memory.kernel.gainOf(values.gain <= -60 ? -Infinity : values.gain);
          const factors = given.bypass ? [1, 0, 0, 1] : trimMatrix(mono ? { ...values, mono: 0, swap: 0 } : values);
          cells.forEach((cell, i) => aim(cell, factors[i] * gain, snap));
          wait.wanted = given.bypass ? 0 : Math.round(values.delay);
          if (snap) wait.now = wait.wanted;
          else if (wait.now !== wait.wanted) aim(fade, 0, false);
        },
        adopt: (other, from, to) => {
          const before = other as typeof control;
          cells.forEach((cell, i) => Object.assign(cell, before.cells[i]));
          Object.assign(fade, before.fade);
          Object.assign(wait, before.wait);
          rings.forEach((ring, i) => {
            const old = laneBefore(before.rings, i) >> 2;
            to.f32.set(from.f32.subarray(old, old + ringFrames), ring >> 2);
          });
        }
      };
      return {
        result: result as Pair,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: () => undefined,
          advance: ({ i32, f32 }) => {
            if (fade.value === 0 && fade.left === 0) {
              wait.now = wait.wanted;
              aim(fade, 1, false);
            }
            const faded = fade.value;
            let moved = advance(fade);
            cells.forEach((cell, i) => {
              const was = cell.value * faded;
              moved = advance(cell) || moved;
              f32[(at >> 2) + i * 2] = was;
              f32[(at >> 2) + i * 2 + 1] = (cell.value * fade.value - was) / PERIOD;
            });
            i32[frames >> 2] = wait.now;
            return moved;
          }
        }
      };
    })
};

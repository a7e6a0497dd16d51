// The trim's control: a matrix of four ramps, after an audible delay in frames. It has no kernel part: the desk's own ops do.
import { constantsOf } from '../../kernel/kernel.ts';
import { powerOfTwo, slackAt } from '../../kernel/period.ts';
import { advance, aim, glideAt, writeRamp, type Glide } from '../glide.ts';
import { laneBefore } from '../lanes.ts';
import { oneByOne, processor, resultFor, type Control } from '../processor.ts';
import { valuesBy, type Params } from '../spec.ts';
import { adoptSwitched, changeOver, partsOf, stepFade, switched, turn, type Switched } from '../switched.ts';
import { TRIM_DELAY, trimLevel, trimMatrix, trimSpecs } from './params.ts';

type TrimControl = Control & { readonly cells: readonly Glide[]; readonly rings: readonly number[]; readonly wait: Switched<number> };

const ringAt = (rate: number) => powerOfTwo(TRIM_DELAY + slackAt(rate));
const oneSide = (values: Params): Params => ({ ...values, mono: 0, swap: 0 });

export const trim = processor({
  type: 'trim',
  title: 'trim',
  specs: trimSpecs,
  remembers: true,
  crosses: ({ mono, swap }) => mono >= 0.5 || swap >= 0.5,
  gains: (values, width) => ({
    matrix: trimMatrix(width === 1 ? oneSide(values) : values),
    level: trimLevel(values),
    exact: values.delay === 0
  }),
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate } = builder;
      const op = constantsOf(kernel, 'OP', ['delay', 'matrix']);
      const ringFrames = ringAt(rate);
      const mono = pair[0] === pair[1];
      const at = kernel.reserve(32);
      const held = resultFor(builder, pair);
      const result = resultFor(builder, pair);
      const sides = mono ? [0] : [0, 1];
      const rings = sides.map(() => kernel.reserve(ringFrames * 4, true));
      const frames = kernel.reserve(4);
      for (const side of sides) builder.op(op.delay, pair[side], held[side], rings[side], ringFrames - 1, frames);
      builder.op(op.matrix, ...held, ...result, at);
      const cells = [0, 1, 2, 3].map(() => glideAt(0));
      const wait = switched(0);
      const control: TrimControl = {
        cells,
        rings,
        wait,
        parts: () => [...cells, ...partsOf(wait)],
        aim: (given, _site, memory, snap) => {
          const values = valuesBy(trimSpecs, given.params);
          const gain = given.bypass ? 1 : memory.kernel.gainOf(trimLevel(values));
          const factors = given.bypass ? [1, 0, 0, 1] : trimMatrix(mono ? oneSide(values) : values);
          cells.forEach((cell, i) => aim(cell, factors[i] * gain, snap));
          const wanted = given.bypass ? 0 : Math.round(values.delay);
          turn(wait, wanted, { snap, same: wait.now === wanted });
        },
        adopt: (other, from, to) => {
          const before = other as TrimControl;
          cells.forEach((cell, i) => Object.assign(cell, before.cells[i]));
          adoptSwitched(wait, before.wait);
          rings.forEach((ring, i) => {
            const old = laneBefore(before.rings, i) >> 2;
            to.f32.set(from.f32.subarray(old, old + ringFrames), ring >> 2);
          });
        }
      };
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: () => undefined,
          advance: ({ i32, f32 }) => {
            changeOver(wait);
            const fade = stepFade(wait);
            let { moved } = fade;
            cells.forEach((cell, i) => {
              const was = cell.value * fade.was;
              moved = advance(cell) || moved;
              writeRamp(f32, at + i * 8, was, cell.value * wait.fade.value);
            });
            i32[frames >> 2] = wait.now;
            return moved;
          }
        }
      };
    })
});

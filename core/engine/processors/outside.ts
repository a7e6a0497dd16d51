// The outside device's control: each side has an instance; its latency is part of the plan's shape.
import { OUTSIDE_LATENCY, outsideLatency, outsideNoise, SPRING, springFrames, TAPE_LOW } from '../../dsp/outside.ts';
import { valuesOf } from '../../dsp/params.ts';
import { advance, aim, glideAt, type Glide } from '../glide.ts';
import { OP, OUTSIDE, PERIOD, powerOfTwo, slackAt } from '../layout.ts';
import { oneByOne, resultFor, type Control, type Processor } from './processor.ts';

const ringAt = (rate: number) => powerOfTwo(OUTSIDE_LATENCY + slackAt(rate));
const GLIDES = ['drive', 'wet', 'dry', 'noise', 'fade'] as const;
const springRing = (rate: number) => powerOfTwo(springFrames(rate)[1] + slackAt(rate));

type OutsideControl = Control & {
  readonly sides: readonly number[];
  readonly rings: readonly number[];
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  /** The unit that sounds, and the one that is wanted: it changes while `fade` is 0. */
  readonly unit: { now: number; wanted: number };
};

export const outsideProcessor: Processor = {
  latency: (_rate, { params }) => outsideLatency(params),
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate } = builder;
      const result = resultFor(builder, pair);
      const sides = [...new Set(pair)].map(() => kernel.reserve(OUTSIDE.bytes));
      const rings = sides.flatMap(() => [kernel.reserve(ringAt(rate) * 4, true), kernel.reserve(springRing(rate) * 4, true)]);
      sides.forEach((at, side) => builder.op(OP.outside, pair[side], result[side], at));
      const control = createControl(sides, rings, rate);
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: ({ i32, f32 }) =>
            sides.forEach((at, side) => {
              i32.set([rings[side * 2], ringAt(rate) - 1, rings[side * 2 + 1], springRing(rate) - 1], at >> 2);
              i32.set([outsideLatency(insert.params), springFrames(rate)[side], 1 + side], (at + OUTSIDE.unit + 4) >> 2);
              f32.set([SPRING.back, SPRING.level, SPRING.coefficient], (at + OUTSIDE.spring) >> 2);
            }),
          advance: ({ kernel: running, i32, f32 }) => {
            const { glides, unit } = control;
            if (glides.fade.value === 0 && glides.fade.left === 0) {
              unit.now = unit.wanted;
              aim(glides.fade, 1, false);
            }
            let moved = false;
            const low = running.onePole(Math.min(unit.now === 2 ? TAPE_LOW : SPRING.low, rate * 0.49), rate);
            for (const name of GLIDES) {
              const was = glides[name].value;
              moved = advance(glides[name]) || moved;
              for (const at of sides) f32.set([was, (glides[name].value - was) / PERIOD], (at + OUTSIDE[name]) >> 2);
            }
            for (const at of sides) {
              i32[(at + OUTSIDE.unit) >> 2] = unit.now;
              f32[(at + OUTSIDE.low) >> 2] = low;
            }
            return moved;
          }
        }
      };
    })
};

function createControl(sides: readonly number[], rings: readonly number[], rate: number): OutsideControl {
  const glides = Object.fromEntries(GLIDES.map((name) => [name, glideAt(name === 'fade' ? 1 : 0)])) as OutsideControl['glides'];
  const unit = { now: 0, wanted: 0 };
  return {
    sides,
    rings,
    glides,
    unit,
    parts: () => [...Object.values(glides), unit],
    aim: (insert, _site, { kernel }, snap) => {
      const values = valuesOf('outside', insert.params);
      const wet = insert.bypass ? 0 : values.mix / 100;
      aim(glides.drive, kernel.gainOf(values.drive), snap);
      aim(glides.wet, wet, snap);
      aim(glides.dry, 1 - wet, snap);
      aim(glides.noise, kernel.gainOf(outsideNoise(values)), snap);
      unit.wanted = Math.round(values.unit);
      if (snap) unit.now = unit.wanted;
      else if (unit.now !== unit.wanted) aim(glides.fade, 0, false);
    },
    adopt: (other, from, to) => {
      const before = other as OutsideControl;
      for (const name of GLIDES) Object.assign(glides[name], before.glides[name]);
      Object.assign(unit, before.unit);
      const copy = (a: number, b: number, bytes: number) => to.f32.set(from.f32.subarray(a >> 2, (a + bytes) >> 2), b >> 2);
      sides.forEach((at, side) => {
        const was = Math.min(side, before.sides.length - 1);
        const old = before.sides[was];
        copy(old + OUTSIDE.state, at + OUTSIDE.state, 4);
        copy(old + OUTSIDE.states, at + OUTSIDE.states, OUTSIDE.bytes - OUTSIDE.states);
        copy(before.rings[was * 2], rings[side * 2], ringAt(rate) * 4);
        copy(before.rings[was * 2 + 1], rings[side * 2 + 1], springRing(rate) * 4);
      });
    }
  };
}

// The outside device's control: each side has an instance; its latency is part of the plan's shape.
import { constantsOf, opOf, type Kernel } from '../../kernel/kernel.ts';
import { powerOfTwo, slackAt } from '../../kernel/period.ts';
import { advance, aim, eased, glideAt, glidesAt, writeRamp, type Glide } from '../glide.ts';
import type { Frames } from '../../units.ts';
import { oneByOne, processor, resultFor, type Control } from '../processor.ts';
import { valuesBy } from '../spec.ts';
import { adoptSwitched, changeOver, partsOf, stepFade, switched, turn, type Switched } from '../switched.ts';
import { OUTSIDE_LATENCY, outsideLatency, outsideNoise, outsideSpecs, SPRING, springFrames, TAPE_LOW } from './params.ts';

const ringAt = (rate: number) => powerOfTwo(OUTSIDE_LATENCY + slackAt(rate));
const GLIDES = ['drive', 'wet', 'dry', 'noise'] as const;
const springRing = (rate: number) => powerOfTwo(springFrames(rate)[1] + slackAt(rate));

type OutsideControl = Control & {
  readonly sides: readonly number[];
  readonly rings: readonly number[];
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  readonly unit: Switched<number>;
  /** The latency, the one before while it changes, and how far it has. */
  readonly latency: Frames;
  was: Frames;
  readonly share: Glide;
};

const offsets = (kernel: Kernel) =>
  constantsOf(kernel, 'OUTSIDE', [
    ...([
      'ring',
      'unit',
      'latency',
      'drive',
      'wet',
      'dry',
      'noise',
      'low',
      'state',
      'spring',
      'fade',
      'states',
      'was',
      'share',
      'bytes'
    ] as const)
  ]);
type Offsets = ReturnType<typeof offsets>;

export const outside = processor({
  type: 'outside',
  title: 'outside device',
  specs: outsideSpecs,
  remembers: true,
  makes: true,
  // A wire or a spring is linear; its noise is added once a copy, and tape bends.
  bends: (values) => values.unit >= 1.5 || outsideNoise(values) > -Infinity,
  latency: (_rate, params) => outsideLatency(params),
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate } = builder;
      const OUTSIDE = offsets(kernel);
      const result = resultFor(builder, pair);
      const sides = [...new Set(pair)].map(() => kernel.reserve(OUTSIDE.bytes));
      const rings = sides.flatMap(() => [kernel.reserve(ringAt(rate) * 4, true), kernel.reserve(springRing(rate) * 4, true)]);
      builder.op(opOf(kernel, 'outside'), ...pair, ...result, sides[0], sides[1] ?? 0);
      const latency = outsideLatency(insert.params);
      const control = createControl({ sides, rings, latency }, rate, OUTSIDE);
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: ({ i32, f32 }) =>
            sides.forEach((at, side) => {
              i32.set([rings[side * 2], ringAt(rate) - 1, rings[side * 2 + 1], springRing(rate) - 1], (at + OUTSIDE.ring) >> 2);
              i32.set([latency, springFrames(rate)[side], 1 + side], (at + OUTSIDE.latency) >> 2);
              f32.set([SPRING.back, SPRING.level, SPRING.coefficient], (at + OUTSIDE.spring) >> 2);
            }),
          advance: ({ kernel: running, i32, f32 }) => {
            const { glides, unit, share } = control;
            changeOver(unit);
            const low = running.onePole(Math.min(unit.now === 2 ? TAPE_LOW : SPRING.low, rate * 0.49), rate);
            const fade = stepFade(unit);
            let { moved } = fade;
            for (const name of GLIDES) {
              const was = glides[name].value;
              moved = advance(glides[name]) || moved;
              for (const at of sides) writeRamp(f32, at + OUTSIDE[name], was, glides[name].value);
            }
            const shared = share.value;
            moved = advance(share) || moved;
            for (const at of sides) {
              writeRamp(f32, at + OUTSIDE.fade, fade.was, unit.fade.value);
              writeRamp(f32, at + OUTSIDE.share, eased(shared), eased(share.value));
              i32[(at + OUTSIDE.was) >> 2] = control.was;
              i32[(at + OUTSIDE.unit) >> 2] = unit.now;
              f32[(at + OUTSIDE.low) >> 2] = low;
            }
            return moved;
          }
        }
      };
    })
});

function createControl(
  { sides, rings, latency }: Pick<OutsideControl, 'sides' | 'rings' | 'latency'>,
  rate: number,
  OUTSIDE: Offsets
): OutsideControl {
  const glides = glidesAt(GLIDES, () => 0);
  const unit = switched(0);
  const share = glideAt(1);
  const control: OutsideControl = {
    sides,
    rings,
    latency,
    was: latency,
    share,
    glides,
    unit,
    parts: () => [control, share, ...Object.values(glides), ...partsOf(unit)],
    aim: (insert, _site, { kernel }, snap) => {
      const values = valuesBy(outsideSpecs, insert.params);
      const wet = insert.bypass ? 0 : values.mix / 100;
      aim(glides.drive, kernel.gainOf(values.drive), snap);
      aim(glides.wet, wet, snap);
      aim(glides.dry, 1 - wet, snap);
      aim(glides.noise, kernel.gainOf(outsideNoise(values)), snap);
      const wanted = Math.round(values.unit);
      turn(unit, wanted, { snap, same: unit.now === wanted });
    },
    adopt: (other, from, to) => {
      const before = other as OutsideControl;
      for (const name of GLIDES) Object.assign(glides[name], before.glides[name]);
      adoptSwitched(unit, before.unit);
      // One that changes again meanwhile is taken from where it was going.
      if (before.latency === latency) {
        Object.assign(share, before.share);
        control.was = before.was;
      } else {
        Object.assign(share, glideAt(0));
        aim(share, 1, false);
        control.was = before.latency;
      }
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
  return control;
}

// The delay's control: glides of its gains and filters, and a short fade around changes of its times.
import { constantsOf, opOf, type Kernel } from '../../kernel/kernel.ts';
import { powerOfTwo, slackAt } from '../../kernel/period.ts';
import { advance, aim, glideAt, glidesAt, writeRamp, type Glide } from '../glide.ts';
import { oneByOne, processor, type Control, type Memory, type Pair } from '../processor.ts';
import { valuesBy } from '../spec.ts';
import { adoptSwitched, changeOver, partsOf, stepFade, switched, turn, type Switched } from '../switched.ts';
import { delayRing, delayShape, delaySpecs, DELAY_TAPS, type DelayShape } from './params.ts';

const GLIDES = ['feedback', 'high', 'low', 'mix'] as const;

type DelayControl = Control & {
  readonly at: number;
  readonly ring: number;
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  /** Left and right gain of each tap. */
  readonly gains: readonly (readonly [Glide, Glide])[];
  readonly shape: Switched<DelayShape>;
  /** What goes into the rings; shut with the fade where the way changes, which would leave an edge in them. */
  readonly door: Glide;
};

const offsets = (kernel: Kernel) =>
  constantsOf(kernel, 'DELAY', [
    ...(['ring', 'taps', 'mode', 'feedback', 'high', 'low', 'wet', 'dry', 'states', 'back', 'door'] as const),
    ...(['tap', 'tapBytes', 'bytes'] as const)
  ]);
type Offsets = ReturnType<typeof offsets>;

const ringFrames = (rate: number) => powerOfTwo(delayRing(rate) + slackAt(rate));

export const delay = processor({
  type: 'delay',
  title: 'delay',
  specs: delaySpecs,
  stereo: true,
  remembers: true,
  onChannel: { mix: 30 },
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate, buffer } = builder;
      const DELAY = offsets(kernel);
      const at = kernel.reserve(DELAY.bytes);
      const ring = kernel.reserve(ringFrames(rate) * 8, true);
      const result: Pair = [buffer(), buffer()];
      builder.op(opOf(kernel, 'delay'), ...pair, ...result, at);
      const control = createControl(at, ring, rate, DELAY);
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: ({ i32 }) => i32.set([ring, ringFrames(rate) - 1], (at + DELAY.ring) >> 2),
          advance: (memory) => step(control, memory, rate, DELAY)
        }
      };
    })
});

/** Whether two shapes have the same taps in time, so that only gains may differ. */
const sameTimes = (a: DelayShape, b: DelayShape) =>
  a.mode === b.mode &&
  a.taps.length === b.taps.length &&
  a.taps.every((tap, i) => tap.left === b.taps[i].left && tap.right === b.taps[i].right);

function createControl(at: number, ring: number, rate: number, DELAY: Offsets): DelayControl {
  const shape = switched(delayShape(valuesBy(delaySpecs, {}), rate, 120));
  const control: DelayControl = {
    at,
    ring,
    glides: glidesAt(GLIDES, () => 0),
    gains: Array.from({ length: DELAY_TAPS }, () => [glideAt(0), glideAt(0)] as const),
    shape,
    door: glideAt(1),
    parts: () => [...partsOf(shape), ...Object.values(control.glides), ...control.gains.flat(), control.door],
    aim: (insert, site, { kernel }, snap) => {
      const values = valuesBy(delaySpecs, insert.params);
      const wanted = delayShape(values, site.rate, site.bpm);
      aim(control.glides.feedback, values.feedback / 100, snap);
      aim(control.glides.high, values.high, snap);
      aim(control.glides.low, values.low, snap);
      aim(control.glides.mix, insert.bypass ? 0 : values.mix / 100, snap);
      const same = sameTimes(shape.now, wanted);
      const otherWay = shape.now.mode !== wanted.mode;
      if (snap) Object.assign(shape.fade, glideAt(1));
      turn(shape, wanted, { snap, same });
      control.gains.forEach(([left, right], i) => {
        const tap = wanted.taps[i];
        const level = tap ? kernel.gainOf(tap.level) : 0;
        aim(left, tap ? level * Math.min(1, 1 - tap.pan / 100) : 0, snap);
        aim(right, tap ? level * Math.min(1, 1 + tap.pan / 100) : 0, snap);
      });
      if (snap) Object.assign(control.door, glideAt(1));
      else if (!same && otherWay) aim(control.door, 0, false);
    },
    holds: ({ f32 }, rendered, level) => {
      const { taps } = shape.now;
      const loudest = Math.max(...control.gains.flat().map(({ value }) => value)) * control.glides.mix.value;
      const longest = Math.max(...taps.flatMap(({ left, right }) => [left, right]));
      const mask = ringFrames(rate) - 1;
      for (let back = 1; back <= longest; back++) {
        const at = (ring >> 2) + ((rendered - back) & mask) * 2;
        if (Math.max(Math.abs(f32[at]), Math.abs(f32[at + 1])) * loudest > level) return true;
      }
      return false;
    },
    adopt: (other, from, to) => {
      const before = other as DelayControl;
      to.f32.set(from.f32.subarray(before.ring >> 2, (before.ring >> 2) + ringFrames(rate) * 2), ring >> 2);
      const states = (base: number) => (base + DELAY.states) >> 2;
      to.f32.set(from.f32.subarray(states(before.at), states(before.at) + 4), states(at));
      for (const name of GLIDES) Object.assign(control.glides[name], before.glides[name]);
      control.gains.forEach((pair, i) => pair.forEach((glide, side) => Object.assign(glide, before.gains[i][side])));
      Object.assign(control.door, before.door);
      adoptSwitched(shape, before.shape);
    }
  };
  return control;
}

/** One period further; whether anything moved. */
function step(control: DelayControl, { kernel, i32, f32 }: Memory, rate: number, DELAY: Offsets): boolean {
  const { at, glides, gains, shape, door } = control;
  if (changeOver(shape)) aim(door, 1, false);
  const before = { feedback: glides.feedback.value, mix: glides.mix.value, door: door.value };
  const fade = stepFade(shape);
  let moved = [fade.moved, advance(door)].includes(true);
  for (const name of GLIDES) moved = advance(glides[name]) || moved;
  for (const [left, right] of gains) moved = [advance(left), advance(right)].includes(true) || moved;
  const { mode, taps } = shape.now;
  i32[(at + DELAY.taps) >> 2] = taps.length;
  i32[(at + DELAY.mode) >> 2] = mode;
  i32.set([taps[0].left, taps[0].right], (at + DELAY.back) >> 2);
  taps.forEach(({ left, right }, i) => {
    const tap = (at + DELAY.tap + i * DELAY.tapBytes) >> 2;
    i32.set([left, right], tap);
    f32[tap + 2] = gains[i][0].value;
    f32[tap + 3] = gains[i][1].value;
  });
  f32[(at + DELAY.high) >> 2] = glides.high.value <= 20 ? 0 : kernel.onePole(glides.high.value, rate);
  f32[(at + DELAY.low) >> 2] = glides.low.value >= 20000 ? 1 : kernel.onePole(Math.min(glides.low.value, rate * 0.49), rate);
  // What is read back jumps with the times: it too is faded out around the jump, or the edge would go round.
  writeRamp(f32, at + DELAY.feedback, before.feedback * fade.was, glides.feedback.value * shape.fade.value);
  writeRamp(f32, at + DELAY.door, before.door, door.value);
  writeRamp(f32, at + DELAY.wet, before.mix * fade.was, glides.mix.value * shape.fade.value);
  writeRamp(f32, at + DELAY.dry, 1 - before.mix, 1 - glides.mix.value);
  return moved;
}

// The delay's control: glides of its gains and filters, and a short fade around changes of its times.
import { delayRing, delayShape, DELAY_TAPS, type DelayShape } from '../../dsp/delay.ts';
import { valuesOf } from '../../dsp/params.ts';
import { advance, aim, glideAt, type Glide } from '../glide.ts';
import { DELAY, OP, PERIOD, powerOfTwo, slackAt } from '../layout.ts';
import { oneByOne, type Control, type Memory, type Pair, type Processor } from './processor.ts';

const GLIDES = ['feedback', 'high', 'low', 'mix'] as const;

type DelayControl = Control & {
  readonly at: number;
  readonly ring: number;
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  /** Left and right gain of each tap. */
  readonly gains: readonly (readonly [Glide, Glide])[];
  /** 1 while the times stand; fades to 0 and back around a change of them. */
  readonly fade: Glide;
  /** What goes into the rings; shut with the fade where the way changes, which would leave an edge in them. */
  readonly door: Glide;
  shape: DelayShape;
  wanted: DelayShape;
};

const ringFrames = (rate: number) => powerOfTwo(delayRing(rate) + slackAt(rate));

export const delayProcessor: Processor = {
  latency: () => 0,
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate, buffer } = builder;
      const at = kernel.reserve(DELAY.bytes);
      const ring = kernel.reserve(ringFrames(rate) * 8, true);
      const result: Pair = [buffer(), buffer()];
      builder.op(OP.delay, ...pair, ...result, at);
      const control = createControl(at, ring, rate);
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: ({ i32 }) => i32.set([ring, ringFrames(rate) - 1], at >> 2),
          advance: (memory) => step(control, memory, rate)
        }
      };
    })
};

/** Whether two shapes have the same taps in time, so that only gains may differ. */
const sameTimes = (a: DelayShape, b: DelayShape) =>
  a.mode === b.mode &&
  a.taps.length === b.taps.length &&
  a.taps.every((tap, i) => tap.left === b.taps[i].left && tap.right === b.taps[i].right);

function createControl(at: number, ring: number, rate: number): DelayControl {
  const start = delayShape(valuesOf('delay', {}), rate, 120);
  const control: DelayControl = {
    at,
    ring,
    glides: Object.fromEntries(GLIDES.map((name) => [name, glideAt(0)])) as DelayControl['glides'],
    gains: Array.from({ length: DELAY_TAPS }, () => [glideAt(0), glideAt(0)] as const),
    fade: glideAt(1),
    door: glideAt(1),
    shape: start,
    wanted: start,
    parts: () => [control, ...Object.values(control.glides), ...control.gains.flat(), control.fade, control.door],
    aim: (insert, site, { kernel }, snap) => {
      const values = valuesOf('delay', insert.params);
      const shape = delayShape(values, site.rate, site.bpm);
      control.wanted = shape;
      aim(control.glides.feedback, values.feedback / 100, snap);
      aim(control.glides.high, values.high, snap);
      aim(control.glides.low, values.low, snap);
      aim(control.glides.mix, insert.bypass ? 0 : values.mix / 100, snap);
      const moved = !sameTimes(control.shape, shape);
      if (snap || !moved) control.shape = shape;
      control.gains.forEach(([left, right], i) => {
        const tap = shape.taps[i];
        const level = tap ? kernel.gainOf(tap.level) : 0;
        aim(left, tap ? level * Math.min(1, 1 - tap.pan / 100) : 0, snap);
        aim(right, tap ? level * Math.min(1, 1 + tap.pan / 100) : 0, snap);
      });
      if (snap) for (const glide of [control.fade, control.door]) Object.assign(glide, glideAt(1));
      else if (moved) {
        aim(control.fade, 0, false);
        if (control.shape.mode !== shape.mode) aim(control.door, 0, false);
      }
    },
    holds: ({ f32 }, rendered, level) => {
      const { taps } = control.shape;
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
      Object.assign(control.fade, before.fade);
      Object.assign(control.door, before.door);
      Object.assign(control, { shape: before.shape, wanted: before.wanted });
    }
  };
  return control;
}

/** One period further; whether anything moved. */
function step(control: DelayControl, { kernel, i32, f32 }: Memory, rate: number): boolean {
  const { at, glides, gains, fade, door } = control;
  if (fade.value === 0 && fade.left === 0) {
    control.shape = control.wanted;
    aim(fade, 1, false);
    aim(door, 1, false);
  }
  const before = { feedback: glides.feedback.value, mix: glides.mix.value, fade: fade.value, door: door.value };
  let moved = [advance(fade), advance(door)].includes(true);
  for (const name of GLIDES) moved = advance(glides[name]) || moved;
  for (const [left, right] of gains) moved = [advance(left), advance(right)].includes(true) || moved;
  const { mode, taps } = control.shape;
  i32[(at + DELAY.taps) >> 2] = taps.length;
  i32[(at + DELAY.mode) >> 2] = mode;
  i32.set([taps[0].left, taps[0].right], (at + DELAY.back) >> 2);
  taps.forEach(({ left, right }, i) => {
    const tap = (at + DELAY.tap + i * 16) >> 2;
    i32.set([left, right], tap);
    f32[tap + 2] = gains[i][0].value;
    f32[tap + 3] = gains[i][1].value;
  });
  f32[(at + DELAY.high) >> 2] = glides.high.value <= 20 ? 0 : kernel.onePole(glides.high.value, rate);
  f32[(at + DELAY.low) >> 2] = glides.low.value >= 20000 ? 1 : kernel.onePole(Math.min(glides.low.value, rate * 0.49), rate);
  const ramp = (offset: number, from: number, to: number) => {
    f32[(at + offset) >> 2] = from;
    f32[((at + offset) >> 2) + 1] = (to - from) / PERIOD;
  };
  // What is read back jumps with the times: it too is faded out around the jump, or the edge would go round.
  ramp(DELAY.feedback, before.feedback * before.fade, glides.feedback.value * fade.value);
  ramp(DELAY.door, before.door, door.value);
  ramp(DELAY.wet, before.mix * before.fade, glides.mix.value * fade.value);
  ramp(DELAY.dry, 1 - before.mix, 1 - glides.mix.value);
  return moved;
}

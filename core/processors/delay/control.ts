// The delay's control: glides of its gains, filters and way, and changes of its times, of which the old go over into the new.
import { constantsOf, opOf, type Kernel } from '../../kernel/kernel.ts';
import { powerOfTwo, slackAt } from '../../kernel/period.ts';
import { advance, aim, eased, glideAt, glidesAt, writeRamp, type Glide } from '../glide.ts';
import { oneByOne, processor, type Control, type Memory, type Pair } from '../processor.ts';
import { valuesBy } from '../spec.ts';
import { delayRoom, delayShape, delaySpecs, DELAY_TAPS, type DelayShape } from './params.ts';

const GLIDES = ['feedback', 'high', 'low', 'mix', 'stays', 'left'] as const;

/** Times that go over into others; what is wanted meanwhile waits until they have. Anew: in other rings, what is wanted next is there at once. */
type Times = { from: DelayShape; to: DelayShape; wanted: DelayShape; anew: boolean };

type DelayControl = Control & {
  readonly at: number;
  readonly ring: number;
  /** Frames of it. */
  readonly frames: number;
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  /** Left and right gain of each tap. */
  readonly gains: readonly (readonly [Glide, Glide])[];
  readonly times: Times;
  /** How far. */
  readonly share: Glide;
};

const offsets = (kernel: Kernel) =>
  constantsOf(kernel, 'DELAY', [
    ...(['ring', 'taps', 'moves', 'share', 'feedback', 'high', 'low', 'wet', 'dry', 'stays', 'left', 'states'] as const),
    ...(['tap', 'from', 'gains', 'tapBytes', 'bytes'] as const)
  ]);
type Offsets = ReturnType<typeof offsets>;

export const delay = processor({
  type: 'delay',
  title: 'delay',
  specs: delaySpecs,
  stereo: true,
  remembers: true,
  onChannel: { mix: 30 },
  room: (values, { rate, bpm }) => delayRoom(values, rate, bpm),
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair, room }) => {
      const { kernel, rate, buffer } = builder;
      const DELAY = offsets(kernel);
      const at = kernel.reserve(DELAY.bytes);
      const frames = powerOfTwo(room + slackAt(rate));
      const ring = kernel.reserve(frames * 8, true);
      const result: Pair = [buffer(), buffer()];
      builder.op(opOf(kernel, 'delay'), ...pair, ...result, at);
      const control = createControl({ at, ring, frames }, rate, DELAY);
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: ({ i32 }) => i32.set([ring, frames - 1], (at + DELAY.ring) >> 2),
          advance: (memory) => step(control, memory, rate, DELAY)
        }
      };
    })
});

/** Whether two shapes have the same taps in time, so that only gains may differ. */
const sameTimes = (a: DelayShape, b: DelayShape) =>
  a.taps.length === b.taps.length && a.taps.every((tap, i) => tap.left === b.taps[i].left && tap.right === b.taps[i].right);

function createControl({ at, ring, frames }: Pick<DelayControl, 'at' | 'ring' | 'frames'>, rate: number, DELAY: Offsets): DelayControl {
  const shape = delayShape(valuesBy(delaySpecs, {}), rate, 120);
  const times: Times = { from: shape, to: shape, wanted: shape, anew: false };
  const control: DelayControl = {
    at,
    ring,
    frames,
    glides: glidesAt(GLIDES, () => 0),
    gains: Array.from({ length: DELAY_TAPS }, () => [glideAt(0), glideAt(0)] as const),
    times,
    share: glideAt(1),
    parts: () => [times, control.share, ...Object.values(control.glides), ...control.gains.flat()],
    aim: (insert, site, { kernel }, snap) => {
      const values = valuesBy(delaySpecs, insert.params);
      const wanted = delayShape(values, site.rate, site.bpm);
      aim(control.glides.feedback, values.feedback / 100, snap);
      aim(control.glides.high, values.high, snap);
      aim(control.glides.low, values.low, snap);
      aim(control.glides.mix, insert.bypass ? 0 : values.mix / 100, snap);
      // Straight, crossing, ping-pong: whether what goes round stays on its side, and whether all begins left.
      aim(control.glides.stays, wanted.mode === 0 ? 1 : 0, snap);
      aim(control.glides.left, wanted.mode === 2 ? 1 : 0, snap);
      times.wanted = wanted;
      if (snap || times.anew) {
        Object.assign(times, { from: wanted, to: wanted, anew: false });
        Object.assign(control.share, glideAt(1));
      }
      control.gains.forEach(([left, right], i) => {
        const tap = wanted.taps[i];
        const level = tap ? kernel.gainOf(tap.level) : 0;
        aim(left, tap ? level * Math.min(1, 1 - tap.pan / 100) : 0, snap);
        aim(right, tap ? level * Math.min(1, 1 + tap.pan / 100) : 0, snap);
      });
    },
    holds: ({ f32 }, rendered, level) => {
      const taps = [...times.from.taps, ...times.to.taps];
      const loudest = Math.max(...control.gains.flat().map(({ value }) => value)) * control.glides.mix.value;
      const longest = Math.max(...taps.flatMap(({ left, right }) => [left, right]));
      const mask = frames - 1;
      for (let back = 1; back <= longest; back++) {
        const at = (ring >> 2) + ((rendered - back) & mask) * 2;
        if (Math.max(Math.abs(f32[at]), Math.abs(f32[at + 1])) * loudest > level) return true;
      }
      return false;
    },
    adopt: (other, from, to, rendered) => {
      const before = other as DelayControl;
      if (frames === before.frames) to.f32.set(from.f32.subarray(before.ring >> 2, (before.ring >> 2) + frames * 2), ring >> 2);
      else
        for (let back = 1; back <= Math.min(frames, before.frames, rendered); back++)
          for (const side of [0, 1])
            to.f32[(ring >> 2) + ((rendered - back) & (frames - 1)) * 2 + side] =
              from.f32[(before.ring >> 2) + ((rendered - back) & (before.frames - 1)) * 2 + side];
      const states = (base: number) => (base + DELAY.states) >> 2;
      to.f32.set(from.f32.subarray(states(before.at), states(before.at) + 4), states(at));
      for (const name of GLIDES) Object.assign(control.glides[name], before.glides[name]);
      control.gains.forEach((pair, i) => pair.forEach((glide, side) => Object.assign(glide, before.gains[i][side])));
      Object.assign(times, before.times, { anew: before.times.anew || frames !== before.frames });
      Object.assign(control.share, before.share);
    }
  };
  return control;
}

/** One period further; whether anything moved. */
function step(control: DelayControl, { kernel, i32, f32 }: Memory, rate: number, DELAY: Offsets): boolean {
  const { at, glides, gains, times, share } = control;
  if (share.left === 0) {
    times.from = times.to;
    if (!sameTimes(times.to, times.wanted)) {
      times.to = times.wanted;
      Object.assign(share, glideAt(0));
      aim(share, 1, false);
    }
  }
  const before = { ...valuesOf(glides), share: share.value };
  const gainsBefore = gains.map((pair) => pair.map(({ value }) => value));
  const glided = [share, ...Object.values(glides), ...gains.flat()].map(advance);
  const ramp = (offset: number, from: number, to: number) => writeRamp(f32, at + offset, from, to);
  const count = Math.max(times.from.taps.length, times.to.taps.length);
  i32[(at + DELAY.taps) >> 2] = count;
  i32[(at + DELAY.moves) >> 2] = before.share < 1 ? 1 : 0;
  ramp(DELAY.share, eased(before.share), eased(share.value));
  // A tap that is in one of them only stays where it is, and its gain goes to or comes from nothing.
  for (let i = 0; i < count; i++) {
    const [to, from] = [times.to.taps[i] ?? times.from.taps[i], times.from.taps[i] ?? times.to.taps[i]];
    const tap = DELAY.tap + i * DELAY.tapBytes;
    i32.set([to.left, to.right], (at + tap) >> 2);
    i32.set([from.left, from.right], (at + tap + DELAY.from) >> 2);
    gains[i].forEach(({ value }, side) => ramp(tap + DELAY.gains + side * 8, gainsBefore[i][side], value));
  }
  f32[(at + DELAY.high) >> 2] = glides.high.value <= 20 ? 0 : kernel.onePole(glides.high.value, rate);
  f32[(at + DELAY.low) >> 2] = glides.low.value >= 20000 ? 1 : kernel.onePole(Math.min(glides.low.value, rate * 0.49), rate);
  for (const name of ['feedback', 'stays', 'left'] as const) ramp(DELAY[name], before[name], glides[name].value);
  ramp(DELAY.wet, before.mix, glides.mix.value);
  ramp(DELAY.dry, 1 - before.mix, 1 - glides.mix.value);
  return glided.includes(true);
}

const valuesOf = (glides: DelayControl['glides']): Record<(typeof GLIDES)[number], number> =>
  Object.fromEntries(GLIDES.map((name) => [name, glides[name].value])) as Record<(typeof GLIDES)[number], number>;

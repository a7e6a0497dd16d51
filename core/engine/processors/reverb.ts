// The reverb's control: glides of its parameters, and a short fade around changes of its geometry.
import { valuesOf } from '../../dsp/params.ts';
import { REVERB_DIFFUSERS, REVERB_LINES, reverbRings, reverbShape } from '../../dsp/reverb.ts';
import type { Insert } from '../../session/entities.ts';
import { advance, aim, glideAt, type Glide } from '../glide.ts';
import type { Kernel } from '../kernel.ts';
import { OP, PERIOD, REVERB, powerOfTwo, slackAt } from '../layout.ts';
import { oneByOne, type Control, type Pair, type Processor } from './processor.ts';

const GLIDES = ['decay', 'damp', 'lowCut', 'width', 'mix'] as const;
const GEOMETRY = ['type', 'preDelay', 'size'] as const;

type ReverbControl = Control & {
  readonly at: number;
  readonly bytes: number;
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  /** 1 while the geometry stands; fades to 0 and back around a change of it. */
  readonly fade: Glide;
  values: Record<string, number>;
  wanted: Record<string, number>;
  dirty: boolean;
};

const ringsOf = (rate: number) => {
  const rings = reverbRings(rate);
  return {
    preDelay: powerOfTwo(rings.preDelay + slackAt(rate)),
    line: powerOfTwo(rings.line + slackAt(rate)),
    diffuser: powerOfTwo(rings.diffuser + slackAt(rate))
  };
};

/** Bytes of one reverb's rings, which follow upon it. */
const ringBytes = (rate: number): number => {
  const { preDelay, line, diffuser } = ringsOf(rate);
  return preDelay * 8 + line * 4 * REVERB_LINES + diffuser * 4 * REVERB_DIFFUSERS * 2;
};

export const reverbProcessor: Processor = {
  latency: () => 0,
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate, buffer } = builder;
      const control = createReverbControl(kernel.reserve(REVERB.bytes), rate);
      kernel.reserve(ringBytes(rate), true);
      const result: Pair = [buffer(), buffer()];
      builder.op(OP.reverb, ...pair, ...result, control.at);
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: ({ i32 }) => placeReverb(control, i32, rate),
          advance: (memory) => advanceReverb(control, memory.kernel, memory.i32, memory.f32, rate)
        }
      };
    })
};

function createReverbControl(at: number, rate: number): ReverbControl {
  const values = valuesOf('reverb', {});
  const bytes = REVERB.bytes + ringBytes(rate);
  const control: ReverbControl = {
    at,
    bytes,
    glides: Object.fromEntries(GLIDES.map((name) => [name, glideAt(values[name])])) as ReverbControl['glides'],
    fade: glideAt(1),
    values,
    wanted: values,
    dirty: true,
    parts: () => [control, ...Object.values(control.glides), control.fade],
    aim: (insert, _site, _memory, snap) => aimReverb(control, insert, snap),
    adopt: (other, from, to) => {
      const before = other as ReverbControl;
      to.f32.set(from.f32.subarray(before.at >> 2, (before.at + bytes) >> 2), at >> 2);
      placeReverb(control, to.i32, rate);
      for (const name of GLIDES) Object.assign(control.glides[name], before.glides[name]);
      Object.assign(control.fade, before.fade);
      Object.assign(control, { values: before.values, wanted: before.wanted, dirty: true });
    }
  };
  return control;
}

function aimReverb(control: ReverbControl, insert: Insert, snap: boolean): void {
  const wanted = valuesOf('reverb', insert.params);
  if (insert.bypass) wanted.mix = 0;
  control.wanted = wanted;
  for (const name of GLIDES) aim(control.glides[name], wanted[name], snap);
  const reshape = GEOMETRY.some((name) => control.values[name] !== wanted[name]);
  if (snap) control.values = wanted;
  if (reshape && !snap) aim(control.fade, 0, false);
  control.dirty = true;
}

/** Masks and ring addresses, once per plan. */
function placeReverb({ at }: ReverbControl, i32: Int32Array, rate: number): void {
  const { preDelay, line, diffuser } = ringsOf(rate);
  const masks = (at + REVERB.masks) >> 2;
  i32.set([preDelay - 1, line - 1, diffuser - 1], masks);
  const first = at + REVERB.bytes;
  i32.set([first, first + preDelay * 8, first + preDelay * 8 + line * 4 * REVERB_LINES], (at + REVERB.rings) >> 2);
}

/** Steps the glides and writes what moved; whether anything did. */
function advanceReverb(control: ReverbControl, kernel: Kernel, i32: Int32Array, f32: Float32Array, rate: number): boolean {
  const { at, glides, fade } = control;
  const mixBefore = glides.mix.value;
  const widthBefore = glides.width.value;
  const fadeBefore = fade.value;
  const wetBefore = (mixBefore / 100) * fadeBefore;
  const moved = GLIDES.map((name) => advance(glides[name])).includes(true);
  const faded = advance(fade);
  if (fade.value === 0 && fade.left === 0) {
    control.values = control.wanted;
    aim(fade, 1, false);
    control.dirty = true;
  }
  const settling = !moved && !faded && control.dirty;
  if (!moved && !faded && !control.dirty) return false;
  control.dirty = moved || faded;
  const shape = reverbShape(control.values, rate);
  i32[(at + REVERB.preDelay) >> 2] = shape.preDelay;
  i32.set(shape.lines, (at + REVERB.lines) >> 2);
  i32.set([...shape.left, ...shape.right], (at + REVERB.diffusers) >> 2);
  shape.lines.forEach((frames, i) => (f32[((at + REVERB.gains) >> 2) + i] = kernel.decayGain(frames, glides.decay.value, rate)));
  f32[(at + REVERB.damp) >> 2] = kernel.onePole(Math.min(glides.damp.value, rate * 0.49), rate);
  f32[(at + REVERB.lowCut) >> 2] = kernel.onePole(glides.lowCut.value, rate);
  const write = (offset: number, from: number, to: number) => {
    f32[(at + offset) >> 2] = from;
    f32[((at + offset) >> 2) + 1] = settling ? 0 : (to - from) / PERIOD;
  };
  write(REVERB.wet, wetBefore, (glides.mix.value / 100) * fade.value);
  write(REVERB.wet + 8, 1 - mixBefore / 100, 1 - glides.mix.value / 100);
  write(REVERB.side, widthBefore / 100, glides.width.value / 100);
  // Around a change of its lengths nothing goes round: an edge would.
  write(REVERB.hush, fadeBefore, fade.value);
  return true;
}

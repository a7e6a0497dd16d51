// The reverb's control: glides of its parameters, and a short fade around changes of its geometry.
import { constantsOf, opOf, partOf, type Kernel } from '../../kernel/kernel.ts';
import { PERIOD, powerOfTwo, slackAt } from '../../kernel/period.ts';
import type { Insert } from '../../session/entities.ts';
import { advance, aim, eased, glidesAt, type Glide } from '../glide.ts';
import { oneByOne, processor, type Control, type Memory, type Pair } from '../processor.ts';
import { valuesBy } from '../spec.ts';
import { adoptSwitched, changeOver, partsOf, stepFade, switched, turn, type Switched } from '../switched.ts';
import { REVERB_DIFFUSERS, REVERB_LINES, reverbRings, reverbShape, reverbSpecs } from './params.ts';

const GLIDES = ['decay', 'damp', 'lowCut', 'width', 'mix'] as const;
/** Those that glide by the same ratio each period, as they are heard; as a level in dB would. */
const BY_RATIO_NAMES = ['decay', 'damp', 'lowCut'] as const;
const BY_RATIO: ReadonlySet<string> = new Set(BY_RATIO_NAMES);
const GEOMETRY = ['type', 'preDelay', 'size'] as const;
/** What the kernel part exports. */
type Part = {
  decayGain(frames: number, seconds: number, rate: number): number;
  decayDamp(frames: number, seconds: number, freq: number, rate: number): number;
};

type ReverbControl = Control & {
  readonly at: number;
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  /** Values that say how long its lines are. */
  readonly geometry: Switched<Record<string, number>>;
  dirty: boolean;
};

const offsets = (kernel: Kernel) =>
  constantsOf(kernel, 'REVERB', [
    ...([
      'preDelay',
      'lines',
      'diffusers',
      'masks',
      'gains',
      'damps',
      'lowCut',
      'wet',
      'side',
      'rings',
      'hush',
      'forget',
      'apart',
      'bytes'
    ] as const)
  ]);
type Offsets = ReturnType<typeof offsets>;

const ringsOf = (rate: number) => {
  const rings = reverbRings(rate);
  return {
    preDelay: powerOfTwo(rings.preDelay + slackAt(rate)),
    line: powerOfTwo(rings.line + slackAt(rate)),
    diffuser: powerOfTwo(rings.diffuser + slackAt(rate))
  };
};

/** Bytes of one reverb's rings, which follow upon it: two of pre-delay, the lines, all together. */
const ringBytes = (rate: number, { apart }: Offsets) => {
  const { preDelay, line, diffuser } = ringsOf(rate);
  const [pre, lines, diffusers] = [
    [preDelay, 2],
    [line, REVERB_LINES],
    [diffuser, REVERB_DIFFUSERS * 2]
  ].map(([frames, count]) => (frames * 4 + apart) * count);
  return { pre, lines, all: pre + lines + diffusers };
};

export const reverb = processor({
  type: 'reverb',
  title: 'reverb',
  specs: reverbSpecs,
  stereo: true,
  remembers: true,
  onChannel: { mix: 30 },
  build: (builder, entries) =>
    oneByOne(entries, ({ insert, pair }) => {
      const { kernel, rate, buffer } = builder;
      const REVERB = offsets(kernel);
      const control = createControl(kernel.reserve(REVERB.bytes), rate, REVERB);
      kernel.reserve(ringBytes(rate, REVERB).all, true);
      const result: Pair = [buffer(), buffer()];
      builder.op(opOf(kernel, 'reverb'), ...pair, ...result, control.at);
      return {
        result,
        instance: {
          controls: new Map([[insert.id, control]]),
          place: (memory) => placeRings(control, memory, rate, REVERB),
          advance: (memory) => step(control, memory, rate, REVERB)
        }
      };
    })
});

function createControl(at: number, rate: number, REVERB: Offsets): ReverbControl {
  const values = valuesBy(reverbSpecs, {});
  const bytes = REVERB.bytes + ringBytes(rate, REVERB).all;
  const geometry = switched(values);
  const control: ReverbControl = {
    at,
    glides: glidesAt(GLIDES, () => 0),
    geometry,
    dirty: true,
    parts: () => [control, ...Object.values(control.glides), ...partsOf(geometry)],
    aim: (insert, _site, { kernel }, snap) => aimAll(control, insert, kernel, snap),
    adopt: (other, from, to) => {
      const before = other as ReverbControl;
      to.f32.set(from.f32.subarray(before.at >> 2, (before.at + bytes) >> 2), at >> 2);
      placeRings(control, to, rate, REVERB);
      for (const name of GLIDES) Object.assign(control.glides[name], before.glides[name]);
      adoptSwitched(geometry, before.geometry);
      control.dirty = true;
    }
  };
  return control;
}

function aimAll(control: ReverbControl, insert: Insert, kernel: Kernel, snap: boolean): void {
  const wanted = valuesBy(reverbSpecs, insert.params);
  if (insert.bypass) wanted.mix = 0;
  for (const name of GLIDES) aim(control.glides[name], BY_RATIO.has(name) ? kernel.dbOf(wanted[name]) : wanted[name], snap);
  const { geometry } = control;
  turn(geometry, wanted, { snap, same: GEOMETRY.every((name) => geometry.now[name] === wanted[name]) });
  control.dirty = true;
}

/** Masks and ring addresses, once per plan. */
function placeRings({ at }: ReverbControl, { i32 }: Memory, rate: number, REVERB: Offsets): void {
  const { preDelay, line, diffuser } = ringsOf(rate);
  i32.set([preDelay - 1, line - 1, diffuser - 1], (at + REVERB.masks) >> 2);
  const first = at + REVERB.bytes;
  const { pre, lines } = ringBytes(rate, REVERB);
  i32.set([first, first + pre, first + pre + lines], (at + REVERB.rings) >> 2);
}

/** Steps the glides and writes what moved; whether anything did. */
function step(control: ReverbControl, { kernel, i32, f32 }: Memory, rate: number, REVERB: Offsets): boolean {
  const { at, glides, geometry } = control;
  const mixBefore = glides.mix.value;
  const widthBefore = glides.width.value;
  // In the period after it has faded out: nothing of what it was is heard any more, and nothing of it comes back.
  if (changeOver(geometry)) i32[(at + REVERB.forget) >> 2] = 1;
  const moved = GLIDES.map((name) => advance(glides[name])).includes(true);
  const fade = stepFade(geometry);
  const settling = !moved && !fade.moved && control.dirty;
  if (!moved && !fade.moved && !control.dirty) return false;
  control.dirty = moved || fade.moved;
  const shape = reverbShape(geometry.now, rate);
  const { decayGain, decayDamp } = partOf<Part>(kernel);
  const [decay, damp, lowCut] = BY_RATIO_NAMES.map((name) => kernel.gainOf(glides[name].value));
  i32[(at + REVERB.preDelay) >> 2] = shape.preDelay;
  i32.set(shape.lines, (at + REVERB.lines) >> 2);
  i32.set([...shape.left, ...shape.right], (at + REVERB.diffusers) >> 2);
  shape.lines.forEach((frames, i) => {
    f32[((at + REVERB.gains) >> 2) + i] = decayGain(frames, decay, rate);
    f32[((at + REVERB.damps) >> 2) + i] = decayDamp(frames, decay, Math.min(damp, rate * 0.49), rate);
  });
  f32[(at + REVERB.lowCut) >> 2] = kernel.onePole(lowCut, rate);
  const write = (offset: number, from: number, to: number) => {
    f32[(at + offset) >> 2] = from;
    f32[((at + offset) >> 2) + 1] = settling ? 0 : (to - from) / PERIOD;
  };
  const { level } = shape;
  write(REVERB.wet, (mixBefore / 100) * eased(fade.was) * level, (glides.mix.value / 100) * eased(geometry.fade.value) * level);
  write(REVERB.wet + 8, 1 - mixBefore / 100, 1 - glides.mix.value / 100);
  write(REVERB.side, widthBefore / 100, glides.width.value / 100);
  // Around a change of its lengths nothing comes in that would begin with an edge.
  write(REVERB.hush, eased(fade.was), eased(geometry.fade.value));
  return true;
}

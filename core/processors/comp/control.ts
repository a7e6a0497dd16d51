// The compressor's control: glides of its values, written as coefficients of its lanes once a period while they move.
import { constantsOf, opOf, partOf, type Kernel } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import { advance, aim, glidesAt, type Glide } from '../glide.ts';
import { entriesOf, laneBefore, lanesOf, packLanes, resultsOf, sourcesOf, standing, type Lane } from '../lanes.ts';
import { isMono, processor, type Builder, type Control, type Instance, type Memory, type Pair } from '../processor.ts';
import { valuesBy } from '../spec.ts';
import { characterOf, compSpecs, KEY_OPEN, makeUpOf, RMS_MS } from './params.ts';

/** What the kernel part exports. */
type Part = {
  compLane(
    ...values: readonly [
      ...[at: number, lane: number, threshold: number, ratio: number, knee: number, attack: number, release: number],
      ...[averaging: number, slow: number, colour: number, linked: number, listen: number, rate: number]
    ]
  ): void;
};

const offsets = (kernel: Kernel) => ({
  ...constantsOf(kernel, 'COMP', [
    'keys',
    'flags',
    'high',
    'low',
    'sources',
    'results',
    'lanes',
    'wet',
    'dry',
    'deepest',
    'over',
    'overBytes',
    'bytes'
  ]),
  is: constantsOf(kernel, 'COMP_IS', ['keyed', 'filtered', 'coloured', 'averaging', 'slow', 'listened', 'linked']),
  stage: constantsOf(kernel, 'STAGE', ['bytes'])
});
type Offsets = ReturnType<typeof offsets>;

const GLIDES = ['threshold', 'ratio', 'knee', 'attack', 'release', 'makeUp', 'keyHigh', 'keyLow', 'colour', 'wet', 'dry'] as const;
type Values = Record<(typeof GLIDES)[number], number> & { slow: boolean; averaging: number; listen: boolean };

type CompControl = Control & {
  readonly at: number;
  readonly lanes: readonly number[];
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  values: Values;
  settled: boolean;
};

/** dB of one doubling of amplitude. */
const DB_PER_OCTAVE = 6.020599913279624;

export const comp = processor({
  type: 'comp',
  title: 'compressor',
  specs: compSpecs,
  keyed: true,
  linked: true,
  reduces: true,
  bends: () => true,
  build: (builder, entries) => {
    const COMP = offsets(builder.kernel);
    const { groups, results } = packLanes(builder, entries);
    const instances = groups.map((group): Instance & { at: number } => {
      const where = standing(builder, group);
      const at = builder.kernel.reserve(COMP.bytes);
      const controls = new Map(entriesOf(group).map((entry) => [entry.insert.id, createControl(at, lanesOf(group, entry), COMP)]));
      return {
        at,
        controls,
        place: ({ i32 }) => {
          i32.set(sourcesOf(builder, group, where), (at + COMP.sources) >> 2);
          i32.set(
            [0, 1, 2, 3].map((i) => group[i]?.key ?? builder.silence),
            (at + COMP.keys) >> 2
          );
          i32.set(resultsOf(builder, group, where), (at + COMP.results) >> 2);
          i32[(at + COMP.lanes) >> 2] = where.lanes;
        },
        advance: (memory) => {
          let moved = false;
          for (const control of controls.values()) moved = step(control, memory, builder.rate, COMP) || moved;
          if (moved) memory.i32[(at + COMP.flags) >> 2] = flagsOf(group, [...controls.values()], COMP.is);
          return moved;
        }
      };
    });
    for (let i = 0; i < instances.length; i += 2) builder.op(opOf(builder.kernel, 'comp'), instances[i].at, instances[i + 1]?.at ?? 0);
    return { instances, results: results.map((result, i) => (isMono(entries[i].pair) ? oneOf(builder, result) : result)) };
  }
});

/** Of a mono signal with a key of two sides: both lanes are alike, but for the key while it is listened to. */
function oneOf(builder: Builder, result: Pair): Pair {
  if (isMono(result)) return result;
  const both = builder.buffer();
  builder.op(constantsOf(builder.kernel, 'OP', ['mono']).mono, both, ...result);
  return [both, both];
}

function flagsOf(group: readonly Lane[], controls: readonly CompControl[], is: Offsets['is']): number {
  const filtered = ({ glides }: CompControl) => glides.keyHigh.value > KEY_OPEN.high || glides.keyLow.value < KEY_OPEN.low;
  return (
    (group.some(({ from, key }) => from !== key) ? is.keyed : 0) |
    (controls.some(filtered) ? is.filtered : 0) |
    (controls.some(({ glides }) => glides.colour.value > 0) ? is.coloured : 0) |
    (controls.some(({ values }) => values.averaging > 0) ? is.averaging : 0) |
    (controls.some(({ values }) => values.slow) ? is.slow : 0) |
    (controls.some(({ values }) => values.listen) ? is.listened : 0) |
    (controls.some(({ lanes }) => lanes.length === 2) ? is.linked : 0)
  );
}

function createControl(at: number, lanes: readonly number[], COMP: Offsets): CompControl {
  const glides = glidesAt(GLIDES, () => 0);
  const control: CompControl = {
    at,
    lanes,
    glides,
    values: {} as Values,
    settled: false,
    parts: () => [control, ...Object.values(glides)],
    aim: (insert, _site, memory, snap) => {
      const given = valuesBy(compSpecs, insert.params);
      const character = characterOf(given);
      const wet = insert.bypass ? 0 : given.mix / 100;
      control.values = {
        threshold: given.threshold,
        ratio: given.ratio,
        knee: given.knee,
        attack: character.attack,
        release: character.release,
        makeUp: makeUpOf(given),
        keyHigh: given.keyHigh,
        keyLow: given.keyLow,
        colour: insert.bypass ? 0 : character.colour,
        wet: wet * memory.kernel.gainOf(makeUpOf(given)),
        dry: 1 - wet,
        slow: character.slow,
        averaging: given.detector >= 0.5 ? RMS_MS : 0,
        listen: given.listen >= 0.5 && !insert.bypass
      };
      for (const name of GLIDES) aim(glides[name], control.values[name], snap);
      control.settled = false;
    },
    adopt: (other, from, to) => {
      const before = other as CompControl;
      for (const name of GLIDES) Object.assign(glides[name], before.glides[name]);
      control.values = before.values;
      lanes.forEach((lane, i) => {
        const old = laneBefore(before.lanes, i);
        const copy = (from16: number, bytes: number) => {
          for (let vector = from16; vector < from16 + bytes; vector += 16)
            to.f32[((at + vector) >> 2) + lane] = from.f32[((before.at + vector) >> 2) + old];
        };
        copy(0, COMP.keys);
        for (const filter of [COMP.high, COMP.low]) copy(filter, COMP.stage.bytes);
        copy(COMP.over, COMP.overBytes);
      });
    },
    reduction: ({ f32 }) => {
      let deepest = 0;
      for (const lane of lanes) {
        const cell = ((at + COMP.deepest) >> 2) + lane;
        deepest = Math.min(deepest, f32[cell]);
        f32[cell] = 0;
      }
      return deepest * DB_PER_OCTAVE;
    }
  };
  return control;
}

/** One period further; whether anything was written. */
function step(control: CompControl, { kernel, f32 }: Memory, rate: number, COMP: Offsets): boolean {
  if (control.settled) return false;
  const { at, lanes, glides, values } = control;
  const before = { wet: glides.wet.value, dry: glides.dry.value };
  let moved = false;
  for (const name of GLIDES) moved = advance(glides[name]) || moved;
  const now = (name: (typeof GLIDES)[number]) => glides[name].value;
  const { compLane } = partOf<Part>(kernel);
  for (const lane of lanes) {
    compLane(
      at,
      lane,
      now('threshold'),
      now('ratio'),
      now('knee'),
      now('attack'),
      now('release'),
      values.averaging,
      values.slow ? 1 : 0,
      now('colour'),
      lanes.length === 2 ? 1 : 0,
      values.listen ? 1 : 0,
      rate
    );
    keyFilter(at + COMP.high, lane, 0, now('keyHigh'), now('keyHigh') > KEY_OPEN.high, kernel, rate);
    keyFilter(at + COMP.low, lane, 5, now('keyLow'), now('keyLow') < KEY_OPEN.low, kernel, rate);
    for (const [name, offset] of [
      ['wet', COMP.wet],
      ['dry', COMP.dry]
    ] as const) {
      f32[((at + offset) >> 2) + lane] = before[name];
      f32[((at + offset) >> 2) + 4 + lane] = (glides[name].value - before[name]) / PERIOD;
    }
  }
  // One more period after the last step, to write the ramps' ends as standing values.
  control.settled = !moved;
  return true;
}

/** One lane of a key filter: 12 dB/oct Butterworth, or nothing. */
function keyFilter(at: number, lane: number, kind: number, freq: number, on: boolean, kernel: Kernel, rate: number): void {
  if (on) kernel.setStage(at, lane, kind, 2, Math.min(freq, rate * 0.49), 0, Math.SQRT1_2, 1, rate);
  else kernel.clearStage(at, lane);
}

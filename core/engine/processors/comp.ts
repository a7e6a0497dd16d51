// The compressor's control: glides of its values, written as coefficients of its lanes once a period while they move.
import { characterOf, KEY_OPEN, makeUpOf, RMS_MS } from '../../dsp/comp.ts';
import { valuesOf } from '../../dsp/params.ts';
import { advance, aim, glideAt, type Glide } from '../glide.ts';
import { COMP, COMP_FLAGS, OP, PERIOD } from '../layout.ts';
import { entriesOf, laneBefore, lanesOf, packLanes, type Lane } from './lanes.ts';
import type { Control, Instance, Memory, Processor } from './processor.ts';

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

export const compProcessor: Processor = {
  latency: () => 0,
  build: (builder, entries) => {
    const { groups, results } = packLanes(builder, entries);
    const instances = groups.map((group): Instance & { at: number } => {
      const at = builder.kernel.reserve(COMP.bytes);
      const controls = new Map(entriesOf(group).map((entry) => [entry.insert.id, createControl(at, lanesOf(group, entry))]));
      return {
        at,
        controls,
        place: ({ i32 }) => {
          const four = (each: (lane: Lane) => number, otherwise: number) =>
            [0, 1, 2, 3].map((i) => (group[i] ? each(group[i]) : otherwise));
          i32.set(
            four((lane) => lane.from, builder.silence),
            (at + COMP.sources) >> 2
          );
          i32.set(
            four((lane) => lane.key, builder.silence),
            (at + COMP.keys) >> 2
          );
          i32.set(
            four((lane) => lane.to, builder.trash),
            (at + COMP.results) >> 2
          );
        },
        advance: (memory) => {
          let moved = false;
          for (const control of controls.values()) moved = step(control, memory, builder.rate) || moved;
          if (moved) memory.i32[(at + COMP.flags) >> 2] = flagsOf(group, [...controls.values()]);
          return moved;
        }
      };
    });
    for (let i = 0; i < instances.length; i += 2) builder.op(OP.comp, instances[i].at, instances[i + 1]?.at ?? 0);
    return { instances, results };
  }
};

function flagsOf(group: readonly Lane[], controls: readonly CompControl[]): number {
  const filtered = ({ glides }: CompControl) => glides.keyHigh.value > KEY_OPEN.high || glides.keyLow.value < KEY_OPEN.low;
  return (
    (group.some(({ from, key }) => from !== key) ? COMP_FLAGS.keyed : 0) |
    (controls.some(filtered) ? COMP_FLAGS.filtered : 0) |
    (controls.some(({ glides }) => glides.colour.value > 0) ? COMP_FLAGS.coloured : 0) |
    (controls.some(({ values }) => values.averaging > 0) ? COMP_FLAGS.averaging : 0) |
    (controls.some(({ values }) => values.slow) ? COMP_FLAGS.slow : 0) |
    (controls.some(({ values }) => values.listen) ? COMP_FLAGS.listened : 0)
  );
}

function createControl(at: number, lanes: readonly number[]): CompControl {
  const glides = Object.fromEntries(GLIDES.map((name) => [name, glideAt(0)])) as CompControl['glides'];
  const control: CompControl = {
    at,
    lanes,
    glides,
    values: {} as Values,
    settled: false,
    parts: () => [control, ...Object.values(glides)],
    aim: (insert, _site, memory, snap) => {
      const given = valuesOf('comp', insert.params);
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
        for (let vector = 0; vector < COMP.vectors; vector++)
          to.f32[(at >> 2) + vector * 4 + lane] = from.f32[(before.at >> 2) + vector * 4 + old];
        for (const filter of [COMP.high, COMP.low])
          for (let field = 0; field < 8; field++)
            to.f32[((at + filter) >> 2) + field * 4 + lane] = from.f32[((before.at + filter) >> 2) + field * 4 + old];
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
function step(control: CompControl, { kernel, f32 }: Memory, rate: number): boolean {
  if (control.settled) return false;
  const { at, lanes, glides, values } = control;
  const before = { wet: glides.wet.value, dry: glides.dry.value };
  let moved = false;
  for (const name of GLIDES) moved = advance(glides[name]) || moved;
  const now = (name: (typeof GLIDES)[number]) => glides[name].value;
  for (const lane of lanes) {
    kernel.compLane(
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
    keyFilter(at + COMP.high, lane, 0, now('keyHigh'), now('keyHigh') > KEY_OPEN.high, kernel, f32, rate);
    keyFilter(at + COMP.low, lane, 5, now('keyLow'), now('keyLow') < KEY_OPEN.low, kernel, f32, rate);
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
function keyFilter(
  at: number,
  lane: number,
  kind: number,
  freq: number,
  on: boolean,
  kernel: Memory['kernel'],
  f32: Float32Array,
  rate: number
): void {
  if (on) kernel.eqStage(at, lane, kind, 2, Math.min(freq, rate * 0.49), 0, Math.SQRT1_2, 1, rate);
  else for (let field = 0; field < 8; field++) f32[(at >> 2) + field * 4 + lane] = field === 3 ? 1 : 0;
}

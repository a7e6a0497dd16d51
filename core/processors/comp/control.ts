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
      ...[averaging: number, slow: number, linked: number, rate: number]
    ]
  ): void;
};

const offsets = (kernel: Kernel) => ({
  ...constantsOf(kernel, 'COMP', [
    'keys',
    'flags',
    'high',
    'highFrom',
    'low',
    'lowFrom',
    'sources',
    'results',
    'lanes',
    'wet',
    'dry',
    'listen',
    'colour',
    'deepest',
    'over',
    'overBytes',
    'bytes'
  ]),
  is: constantsOf(kernel, 'COMP_IS', ['keyed', 'filtered', 'coloured', 'averaging', 'slow', 'listened', 'linked', 'gliding']),
  stage: constantsOf(kernel, 'STAGE', ['bytes', 'coefficients'])
});
type Offsets = ReturnType<typeof offsets>;

const GLIDES = [
  'threshold',
  'ratio',
  'knee',
  'attack',
  'release',
  'makeUp',
  'keyHigh',
  'keyLow',
  'colour',
  'wet',
  'dry',
  'listen'
] as const;
type Values = Record<(typeof GLIDES)[number], number> & { slow: boolean; averaging: number };

type CompControl = Control & {
  readonly at: number;
  readonly lanes: readonly number[];
  readonly glides: Record<(typeof GLIDES)[number], Glide>;
  values: Values;
  settled: boolean;
  /** Whether it bends in this period, and whether the key is heard. */
  colours: boolean;
  listens: boolean;
  /** Whether the key is filtered in this period. */
  filters: boolean;
  /** Whether its values were put in place at once, and go over from nothing. */
  snapped: boolean;
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
  return (
    (group.some(({ from, key }) => from !== key) ? is.keyed : 0) |
    (controls.some(({ filters }) => filters) ? is.filtered : 0) |
    (controls.some(({ settled }) => !settled) ? is.gliding : 0) |
    (controls.some(({ colours }) => colours) ? is.coloured : 0) |
    (controls.some(({ values }) => values.averaging > 0) ? is.averaging : 0) |
    (controls.some(({ values }) => values.slow) ? is.slow : 0) |
    (controls.some(({ listens }) => listens) ? is.listened : 0) |
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
    colours: false,
    listens: false,
    filters: false,
    snapped: true,
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
        listen: given.listen >= 0.5 && !insert.bypass ? 1 : 0
      };
      for (const name of GLIDES) aim(glides[name], control.values[name], snap);
      control.snapped ||= snap;
      control.settled = false;
    },
    adopt: (other, from, to) => {
      const before = other as CompControl;
      for (const name of GLIDES) Object.assign(glides[name], before.glides[name]);
      control.values = before.values;
      control.snapped = false;
      lanes.forEach((lane, i) => {
        const old = laneBefore(before.lanes, i);
        const copy = (from16: number, bytes: number) => {
          for (let vector = from16; vector < from16 + bytes; vector += 16)
            to.f32[((at + vector) >> 2) + lane] = from.f32[((before.at + vector) >> 2) + old];
        };
        copy(0, COMP.keys);
        for (const filter of [COMP.high, COMP.low]) copy(filter, COMP.stage.bytes);
        for (const from of [COMP.highFrom, COMP.lowFrom]) copy(from, COMP.stage.coefficients);
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
  const openness = () => ({ high: glides.keyHigh.value <= KEY_OPEN.high, low: glides.keyLow.value >= KEY_OPEN.low });
  const wasOpen = openness();
  const before = { wet: glides.wet.value, dry: glides.dry.value, listen: glides.listen.value, colour: glides.colour.value };
  let moved = false;
  for (const name of GLIDES) moved = advance(glides[name]) || moved;
  const now = (name: (typeof GLIDES)[number]) => glides[name].value;
  control.colours = before.colour > 0 || now('colour') > 0;
  control.listens = before.listen > 0 || now('listen') > 0;
  const open = openness();
  control.filters = !(wasOpen.high && wasOpen.low && open.high && open.low);
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
      lanes.length === 2 ? 1 : 0,
      rate
    );
    keyFilter({ at: at + COMP.high, lane, kind: 0, freq: now('keyHigh'), open: open.high, wasOpen: wasOpen.high, rate }, kernel);
    keyFilter({ at: at + COMP.low, lane, kind: 5, freq: now('keyLow'), open: open.low, wasOpen: wasOpen.low, rate }, kernel);
    for (const [name, offset] of [
      ['wet', COMP.wet],
      ['dry', COMP.dry],
      ['listen', COMP.listen],
      ['colour', COMP.colour]
    ] as const) {
      f32[((at + offset) >> 2) + lane] = before[name];
      f32[((at + offset) >> 2) + 4 + lane] = (glides[name].value - before[name]) / PERIOD;
    }
  }
  if (control.snapped)
    for (const lane of lanes)
      for (const [stage, from] of [
        [COMP.high, COMP.highFrom],
        [COMP.low, COMP.lowFrom]
      ])
        for (let field = 0; field < COMP.stage.coefficients; field += 16)
          f32[((at + from + field) >> 2) + lane] = f32[((at + stage + field) >> 2) + lane];
  control.snapped = false;
  // One more period after the last step, to write the ramps' ends as standing values.
  control.settled = !moved;
  return true;
}

type KeyFilter = { at: number; lane: number; kind: number; freq: number; open: boolean; wasOpen: boolean; rate: number };

/** One lane of a key filter: 12 dB/oct Butterworth, or nothing. One that opens passes everything on first, and then forgets what it held. */
function keyFilter({ at, lane, kind, freq, open, wasOpen, rate }: KeyFilter, kernel: Kernel): void {
  if (open && wasOpen) kernel.clearStage(at, lane);
  else kernel.setStage(at, lane, kind, 2, Math.min(freq, rate * 0.49), 0, Math.SQRT1_2, open ? 0 : 1, rate);
}

// The equaliser's control: glides of its bands, written into the kernel as coefficients once a period while they move.
import { constantsOf, opOf, type Kernel } from '../../kernel/kernel.ts';
import type { Insert } from '../../session/entities.ts';
import { advance, aim, eased, glideAt, type Glide } from '../glide.ts';
import { entriesOf, laneBefore, lanesOf, packLanes, resultsOf, sourcesOf, standing } from '../lanes.ts';
import { processor, type Control, type Instance, type Memory } from '../processor.ts';
import { valuesBy } from '../spec.ts';
import { bandOf, EQ_BANDS, EQ_STAGES, eqSpecs, stagesOf, TOP_SHARE, type Band } from './params.ts';

type BandControl = {
  /** The shape that sounds; another one waits until this one has faded out. */
  type: number;
  slope: number;
  wanted: Band;
  readonly freq: Glide;
  readonly gain: Glide;
  readonly q: Glide;
  readonly wet: Glide;
  /** How much of it there was before the last step. */
  was: number;
  dirty: boolean;
};

/** Where an equaliser's lanes are: the instance's address and its lane numbers in it. */
type EqPlace = { readonly at: number; readonly lanes: readonly number[]; readonly EQ: Offsets };

const offsets = (kernel: Kernel) => ({
  ...constantsOf(kernel, 'EQ', ['glides', 'listBytes', 'from', 'slotBytes', 'slots', 'bytes']),
  ...constantsOf(kernel, 'STAGE', ['coefficients'])
});
type Offsets = ReturnType<typeof offsets>;

type EqControl = Control & {
  readonly place: EqPlace;
  readonly bands: BandControl[];
  /** Nothing moves and all is written: there is nothing to do until the next aim. */
  settled: boolean;
  /** Put in place at once: its first coefficients come from nowhere. */
  snapped: boolean;
};

export const eq = processor({
  type: 'eq',
  title: 'equaliser',
  specs: eqSpecs,
  build: (builder, entries) => {
    const EQ = offsets(builder.kernel);
    const { groups, results } = packLanes(builder, entries);
    const instances = groups.map((group): Instance => {
      const at = builder.kernel.reserve(EQ.bytes);
      const where = standing(builder, group);
      builder.opLater(() => [
        opOf(builder.kernel, 'eq'),
        ...sourcesOf(builder, group, where),
        ...resultsOf(builder, group, where),
        at,
        where.lanes
      ]);
      const controls = new Map(
        entriesOf(group).map((entry) => [entry.insert.id, createEqControl({ at, lanes: lanesOf(group, entry), EQ })])
      );
      return {
        controls,
        place: ({ kernel, f32 }) => clearInstance(kernel, at, f32, EQ),
        advance: ({ kernel, i32, f32 }) => {
          let moved = false;
          for (const control of controls.values()) moved = advanceEq(control, kernel, f32, builder.rate) || moved;
          if (moved) {
            writeActive(at, [...controls.values()], i32, EQ);
            i32[(at + EQ.glides) >> 2] = 1;
          }
          return moved;
        }
      };
    });
    return { instances, results };
  }
});

function createEqControl(place: EqPlace): EqControl {
  const bands = Array.from({ length: EQ_BANDS }, (_, i) => {
    const wanted = bandOf(valuesBy(eqSpecs, {}), i);
    return {
      type: wanted.type,
      slope: wanted.slope,
      wanted,
      freq: glideAt(wanted.freq),
      gain: glideAt(wanted.gain),
      q: glideAt(wanted.q),
      wet: glideAt(0),
      was: 0,
      dirty: true
    };
  });
  const control: EqControl = {
    place,
    bands,
    settled: false,
    snapped: true,
    parts: () => [control, ...bands.flatMap((band) => [band, band.freq, band.gain, band.q, band.wet])],
    aim: (insert, _site, _memory, snap) => aimEq(control, insert, snap),
    adopt: (other, from, to) => {
      const before = other as EqControl;
      moveEq(before.place, from, place, to);
      // Copies: both plans run on for a while, each with glides of its own.
      bands.forEach((band, i) => {
        const { freq, gain, q, wet, ...rest } = before.bands[i];
        Object.assign(band, rest);
        for (const [own, old] of [
          [band.freq, freq],
          [band.gain, gain],
          [band.q, q],
          [band.wet, wet]
        ])
          Object.assign(own, old);
        band.dirty = true;
      });
      control.settled = false;
    }
  };
  return control;
}

function aimEq(control: EqControl, insert: Insert, snap: boolean): void {
  const values = valuesBy(eqSpecs, insert.params);
  control.settled = false;
  control.snapped ||= snap;
  control.bands.forEach((band, i) => {
    const wanted = { ...bandOf(values, i), on: bandOf(values, i).on && !insert.bypass };
    band.wanted = wanted;
    const reshape = band.type !== wanted.type || band.slope !== wanted.slope;
    const now = snap || (band.wet.value === 0 && band.wet.left === 0);
    if (now) Object.assign(band, { type: wanted.type, slope: wanted.slope });
    aim(band.freq, wanted.freq, now);
    aim(band.gain, wanted.gain, now);
    aim(band.q, wanted.q, now);
    aim(band.wet, wanted.on && (!reshape || now) ? 1 : 0, snap);
    band.dirty = true;
  });
}

/** Steps the glides and writes what moved. */
function advanceEq(control: EqControl, kernel: Kernel, f32: Float32Array, rate: number): boolean {
  if (control.settled) return false;
  let moved = false;
  control.bands.forEach((band, index) => {
    band.was = band.wet.value;
    const glides = [band.freq, band.gain, band.q, band.wet].map(advance);
    if (band.wet.value === 0 && band.wet.left === 0 && band.wanted.on) {
      // Faded out for another shape: take it and fade in.
      Object.assign(band, { type: band.wanted.type, slope: band.wanted.slope });
      aim(band.wet, 1, false);
      band.dirty = true;
    }
    if (!band.dirty && !glides.includes(true)) return;
    // One that is faded out is left out of the work in the next period.
    band.dirty = band.wet.value === 0 && band.was > 0;
    moved = true;
    writeBand(control.place, band, index, kernel, f32, rate);
  });
  if (control.snapped) standStill(control.place, f32);
  control.snapped = false;
  control.settled = !moved;
  return moved;
}

const sounding = (band: BandControl) => band.was > 0 || band.wet.value > 0 || band.wet.target > 0;

/** Nothing of it goes over from what was before. */
function standStill({ at, lanes, EQ }: EqPlace, f32: Float32Array): void {
  for (let slot = 0; slot < EQ.slots; slot++) for (const lane of lanes) fromItself(f32, slotAt(at, slot, EQ), lane, EQ);
}

function writeBand({ at, lanes, EQ }: EqPlace, band: BandControl, index: number, kernel: Kernel, f32: Float32Array, rate: number) {
  const stages = sounding(band) ? stagesOf({ type: band.type, slope: band.slope, q: band.q.value }) : [];
  const freq = Math.min(band.freq.value, rate * TOP_SHARE);
  for (let i = 0; i < EQ_STAGES; i++) {
    const stageAt = slotAt(at, index * EQ_STAGES + i, EQ);
    for (const lane of lanes) {
      const stage = stages[i];
      if (stage) kernel.setStage(stageAt, lane, band.type, stage.order, freq, band.gain.value, stage.q, eased(band.wet.value), rate);
      else passThrough(kernel, f32, stageAt, lane, EQ);
    }
  }
}

/** A lane without a filter: its output is its input to the last bit, and its state is zero. */
function passThrough(kernel: Kernel, f32: Float32Array, at: number, lane: number, EQ: Offsets): void {
  kernel.clearStage(at, lane);
  fromItself(f32, at, lane, EQ);
}

/** Coefficients that come from nowhere come from themselves. */
function fromItself(f32: Float32Array, at: number, lane: number, EQ: Offsets): void {
  for (let field = 0; field < EQ.coefficients; field += 16) f32[((at + EQ.from + field) >> 2) + lane] = f32[((at + field) >> 2) + lane];
}

/** Writes the list of stages that some lane of an instance needs, in band order. */
function writeActive(at: number, controls: readonly EqControl[], i32: Int32Array, EQ: Offsets): void {
  let count = 0;
  for (let slot = 0; slot < EQ.slots; slot++) {
    const index = Math.floor(slot / EQ_STAGES);
    const needed = controls.some(({ bands }) => {
      const band = bands[index];
      return sounding(band) && slot % EQ_STAGES < stagesOf({ type: band.type, slope: band.slope, q: 1 }).length;
    });
    if (needed) i32[(at >> 2) + 1 + count++] = slot;
  }
  i32[at >> 2] = count;
}

/** Sets all lanes of an instance to pass through. */
function clearInstance(kernel: Kernel, at: number, f32: Float32Array, EQ: Offsets): void {
  for (let slot = 0; slot < EQ.slots; slot++) for (let lane = 0; lane < 4; lane++) passThrough(kernel, f32, slotAt(at, slot, EQ), lane, EQ);
}

/** Carries coefficients and states of an equaliser over into another plan's memory. */
function moveEq(from: EqPlace, { f32: fromF32 }: Memory, to: EqPlace, { f32: toF32 }: Memory): void {
  const { EQ } = to;
  for (let slot = 0; slot < EQ.slots; slot++)
    for (let field = 0; field < EQ.slotBytes; field += 16)
      to.lanes.forEach((lane, i) => {
        const old = ((slotAt(from.at, slot, EQ) + field) >> 2) + laneBefore(from.lanes, i);
        toF32[((slotAt(to.at, slot, EQ) + field) >> 2) + lane] = fromF32[old];
      });
}

/** Address of a slot of an instance. */
const slotAt = (at: number, slot: number, { listBytes, slotBytes }: Offsets): number => at + listBytes + slot * slotBytes;

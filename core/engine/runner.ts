// A plan that runs: its sources are filled, its gains and processors aimed and stepped, period by period; it can take over from the
// one before, and be put back to a kept frame.
import type { Insert, Pattern, Session, Settings, Tap } from '../session/entities.ts';
import { settingsOf } from '../session/entities.ts';
import { clipsInTime, edgeOf } from '../session/timeline.ts';
import type { Frames } from '../units.ts';
import { compile } from './compile.ts';
import { ghostRamp, type Plan } from './plan/plan.ts';
import type { FadesAt, Listened, Pcm, Span } from './engine.ts';
import { fadeOf, fillFade } from './mixFade.ts';
import { createKeeper } from './keep.ts';
import type { KernelModule } from '../kernel/kernel.ts';
import { CHUNK, PERIOD } from '../kernel/period.ts';
import { addPulses } from './pattern.ts';
import { createDrives } from './lanes/drives.ts';
import type { Course } from './lanes/group.ts';
import type { Curves } from './lanes/read.ts';
import { createValues } from './lanes/values.ts';
import type { Where } from './lanes/where.ts';
import { hasten } from '../processors/glide.ts';
import type { Instance } from '../processors/processor.ts';
import { RAMP_PERIODS, type Ramp } from './ramps.ts';
import { exchangeOver, type Share } from './share.ts';
import { stretchesOf, stretchReader } from './stretches.ts';
import type { Topology } from './topology.ts';

export type Runner = {
  readonly plan: Plan;
  /** Frames until signals that newly wait for others, or pass something new, have arrived everywhere. */
  readonly warmUp: Frames;
  /** Where a gain goes, or the course that it follows; false where there is no room for one more that does. */
  readonly aimGain: (key: string, target: number, course: Course | null, snap: boolean) => boolean;
  /** Inserts follow the lanes that there are now. */
  readonly lead: () => void;
  readonly aimInsert: (insert: Insert, snap: boolean) => void;
  /** What the gains that follow lanes are at the next frame. */
  readonly heard: () => Iterable<readonly [key: string, gain: number]>;
  readonly setClips: (session: Session) => void;
  /** Before a period: what goes in to inserts that remember in the plan before, as long as this one goes over from it. */
  readonly follow: (before: Runner) => void;
  /** Reads the next chunk of every source. */
  readonly fill: (parts: readonly Span[], tempo: Settings) => void;
  readonly run: (rendered: Frames, phase: number) => void;
  /** Runs a period passage by passage and adds up what each strip costs, by the clock given. */
  readonly costs: (rendered: Frames, phase: number, now: () => number, into: Map<string, number>) => void;
  /** Adds what the filling of sources took to the strips that have some. */
  readonly spread: (time: number, into: Map<string, number>) => void;
  /** Of one that runs ahead: whether nobody wants more. */
  readonly ended: () => boolean;
  /** Whether something louder than a level is still held, in this engine's share or the other's. */
  readonly holding: (rendered: Frames, level: number) => boolean;
  readonly keep: (rendered: Frames) => void;
  /** Nothing kept of it is needed any more. */
  readonly release: () => void;
  /** Back to the first kept frame at or after one; answers it, and the inserts that were put back to what they were then. */
  readonly rewind: (from: Frames) => { readonly rendered: Frames; readonly inserts: ReadonlySet<string> } | null;
  /** A side of an output pair, or of a channel after its fader, of the last period. */
  readonly out: (pair: number, side: 0 | 1) => Float32Array | null;
  readonly tap: (channelId: string, side: 0 | 1, tap: Tap) => Float32Array | null;
  readonly silence: () => Float32Array;
};

type Source = {
  readonly into: Float32Array;
  /** Where it lies in the kernel's memory. */
  readonly address: number;
  readonly read: ReturnType<typeof stretchReader>;
  readonly pattern: Pattern | null;
};

type Birth = {
  readonly module: KernelModule;
  readonly topology: Topology;
  readonly session: Session;
  readonly pcm: Pcm;
  /** Memory for kept states; null: none are kept. */
  readonly pool: Float32Array[] | null;
  /** The runner that this one takes over from, and how many frames it has rendered. */
  readonly before: Runner | null;
  readonly rendered: Frames;
  readonly listened: readonly Listened[];
  readonly until: Frames;
  readonly fadesAt: FadesAt | undefined;
  readonly share: Share | undefined;
  readonly where: Where;
  readonly curves: Curves;
  /** How many gains may follow lanes. */
  readonly lanes: number;
};

export function createRunner({
  module,
  topology,
  session,
  pcm,
  pool,
  before,
  rendered: begun,
  listened,
  until,
  fadesAt,
  share,
  where,
  curves,
  lanes
}: Birth): Runner {
  const { rate } = settingsOf(session);
  const plan = compile(module, topology, rate, { listened, first: share?.first, lanes });
  /** What was recorded elsewhere plays late, and so do its lanes. */
  const behind = fadesAt?.late ?? 0;
  const drives = createDrives(plan, where, behind);
  const values = createValues(plan, where, behind);
  const lead = () => {
    for (const id of plan.controls.keys()) values.lead(id, curves.insert(id));
  };
  lead();
  /** The rendered frame that comes next. */
  let clock = begun;
  const exchange = share?.ring ? exchangeOver(share.ring) : null;
  const { at: ops, count: opCount } = plan.parts[share?.part ?? 1];
  /** Whether this engine runs a strip. */
  const runs = (id: string) => !share || share.first.has(id) === (share.part === 0);
  /** What the other engine said last: whether it still holds something, and whether it wants no more. */
  let [held, ended] = [false, false];
  const holds = (rendered: Frames, level: number) => [...plan.controls.values()].some((control) => control.holds?.(plan, rendered, level));
  const keeper = pool && createKeeper(plan, pool);
  const site = () => ({ rate, bpm: settingsOf(session).bpm });
  /** Instances of processors in which something may move. */
  const moving = new Set<Instance>();
  /** Which insert each of what a control changes belongs to. */
  let partOf: ReadonlyMap<object, string> | null = null;
  /** What plays into each source chunk. */
  let sources: readonly Source[] = [];
  let fade = fadeOf(session);
  const setClips = (from: Session) => {
    fade = fadeOf(from);
    sources = [...plan.strips].flatMap(([id, { chunks }]) =>
      (runs(id) ? chunks : []).map((into, side): Source => ({
        into,
        address: into.byteOffset,
        read: stretchReader(stretchesOf(clipsInTime(from, id), side as 0 | 1, edgeOf(from), plan.kernel), plan.kernel),
        pattern: from.channel.get(id)?.pattern ?? null
      }))
    );
  };
  setClips(session);

  const aimInsert = (insert: Insert, snap: boolean) => {
    const control = plan.controls.get(insert.id);
    if (!control) return;
    keeper?.note(control.parts());
    control.aim(values.at(insert, clock), site(), plan, snap);
    moving.add(plan.instanceOf.get(insert.id)!);
  };
  /** Values that follow lanes are there at the end of the period. */
  const follow = (insert: Insert) => {
    const control = plan.controls.get(insert.id);
    if (!control) return;
    keeper?.note(control.parts());
    control.aim(insert, site(), plan, false);
    hasten(control.parts());
    moving.add(plan.instanceOf.get(insert.id)!);
  };
  /** Gains that the plan before did not have: they begin where they ought to be. */
  const fresh = new Set<string>();
  const aimGain: Runner['aimGain'] = (key, target, course, snap) => {
    const ramp = plan.ramps.get(key);
    if (!ramp) return true;
    const offset = drives.offsetOf(key);
    if (offset) keeper?.note([offset]);
    if (course) return drives.aim(key, course, clock, snap || fresh.delete(key));
    if (offset) {
      keeper?.note([ramp]);
      drives.aim(key, null, clock, snap);
    }
    if (!snap && ramp.target === target && !fresh.has(key)) return true;
    keeper?.note([ramp]);
    plan.ramps.aim(ramp, target, snap || fresh.delete(key));
    return true;
  };

  let warmUp = 0;
  const latest = Math.max(0, ...[...plan.strips.values()].map(({ taps }) => taps.post.latency));
  const over = [...plan.ghosts].map(([id, ghost]) => ({ id, ...ghost, ramp: plan.ramps.get(ghostRamp(id))! }));
  if (before) {
    const old = before.plan;
    for (const instance of plan.instanceOf.values()) moving.add(instance);
    plan.ramps.adopt(old.ramps);
    for (const key of plan.ramps.keys()) if (!old.ramps.get(key)) fresh.add(key);
    // What follows a curve goes on from where it is.
    for (const [key, gain] of before.heard()) {
      const ramp = plan.ramps.get(key);
      if (ramp) Object.assign(ramp, { value: gain, target: gain, left: 0 });
    }
    for (const [id, control] of plan.controls) {
      const was = old.controls.get(id);
      if (was) control.adopt(was, old, plan, begun);
      // What is new sounds with its values from its first period.
      const insert = session.insert.get(id);
      if (!was && insert) aimInsert(insert, true);
    }
    // Rings may be empty still, or hold what flowed another way: all of it has passed once the latest signal has arrived. What is new
    // and remembers lets its input in gently before it is heard.
    const gentle = [...plan.ghosts.keys()].some((id) => !old.ghosts.has(id));
    warmUp = latest + (gentle ? RAMP_PERIODS * PERIOD : 0);
    for (const [key, { ring, frames }] of plan.compensations) {
      const was = old.compensations.get(key);
      if (was && was.frames === frames) plan.f32.set(old.f32.subarray(was.ring >> 2, (was.ring >> 2) + frames), ring >> 2);
    }
    for (const [id, { chunks }] of plan.strips)
      old.strips.get(id)?.chunks.forEach((from, i) => {
        chunks[i]?.set(from);
      });
  }

  /** Periods until what was empty has filled: so long what goes in is what went in to the plan before. */
  let filling = before ? Math.ceil(latest / PERIOD) : 0;
  for (const { ramp } of over) plan.ramps.aim(ramp, before ? 0 : 1, true);

  const views = new Map<number, Float32Array>();
  const view = (address: number) => {
    const made = views.get(address) ?? plan.f32.subarray(address >> 2, (address >> 2) + PERIOD);
    views.set(address, made);
    return made;
  };
  return {
    plan,
    warmUp,
    ended: () => ended,
    holding: (rendered, level) => held || holds(rendered, level),
    spread: (time, into) => {
      for (const [id, { chunks }] of plan.strips)
        if (chunks.length) into.set(id, (into.get(id) ?? 0) + (time * chunks.length) / sources.length);
    },
    costs: (rendered, phase, now, into) => {
      plan.ramps.advance(plan.f32);
      for (const instance of moving) if (!instance.advance(plan)) moving.delete(instance);
      for (const { ids, ops: own } of plan.passages) {
        const began = now();
        plan.kernel.run(own.at, own.count, BigInt(rendered), phase);
        // The clock's own time is none of it.
        const read = now();
        const each = Math.max(0, read - began - (now() - read)) / ids.length;
        for (const id of ids) into.set(id, (into.get(id) ?? 0) + each);
      }
    },
    aimGain,
    aimInsert,
    lead,
    heard: () => drives.heard(clock),
    setClips,
    fill: (parts, tempo) => {
      plan.sources.fill(0);
      for (const { into, address, read, pattern } of sources) {
        let at = 0;
        for (const { from, to } of parts) {
          const count = Math.min(to, until) - from;
          if (count > 0) {
            const piece = count === CHUNK ? into : into.subarray(at, at + count);
            read(from, piece, address + at * 4, pcm);
            if (pattern) addPulses(piece, from, pattern, tempo, plan.kernel);
          }
          at += to - from;
        }
      }
      if (!plan.fade || !fade) return;
      let at = 0;
      for (const { from, to } of parts) {
        fillFade(
          fadesAt ? { ...fade, end: fadesAt.end } : fade,
          from - (fadesAt?.late ?? 0),
          plan.fade.subarray(at, at + to - from),
          plan.kernel
        );
        at += to - from;
      }
    },
    follow: ({ plan: old }) => {
      for (const { id, ghost, ramp } of over) {
        if (ramp.value === 1 && ramp.left === 0) continue;
        const was = old.ghosts.get(id);
        if (!was) continue;
        ghost.forEach((to, side) => {
          const from = was.into[side] >> 2;
          plan.f32.set(old.f32.subarray(from, from + PERIOD), to >> 2);
        });
      }
    },
    run: (rendered, phase) => {
      const { kernel, f32 } = plan;
      if (exchange && share?.part === 1) held = exchange.pull(plan.crossing);
      if (before && filling-- === 0) for (const { ramp } of over) plan.ramps.aim(ramp, 1, false);
      plan.ramps.advance(f32);
      drives.advance(rendered);
      values.advance(rendered, follow);
      clock = rendered + PERIOD;
      for (const instance of moving) if (!instance.advance(plan)) moving.delete(instance);
      kernel.run(ops, opCount, BigInt(rendered), phase);
      if (exchange && share?.part === 0) {
        const after = rendered + PERIOD;
        const holding = share.tail !== undefined && after >= share.tail.from && holds(after, share.tail.level);
        ended ||= !exchange.push(plan.crossing, holding);
      }
    },
    keep: (rendered) => {
      const changing: object[] = [...plan.ramps.moving(), ...drives.moving()];
      for (const instance of moving) for (const control of instance.controls.values()) changing.push(...control.parts());
      keeper?.take(rendered, changing);
    },
    release: () => keeper?.release(),
    rewind: (from) => {
      const back = keeper?.restore(from) ?? null;
      if (!back) return null;
      partOf ??= new Map([...plan.controls].flatMap(([id, control]) => [...control.parts()].map((part) => [part, id] as const)));
      const inserts = new Set<string>();
      for (const object of back.objects) {
        const id = partOf.get(object);
        if (drives.wake(object)) continue;
        if (id === undefined) plan.ramps.wake(object as Ramp);
        else inserts.add(id);
      }
      for (const id of inserts) moving.add(plan.instanceOf.get(id)!);
      clock = back.rendered;
      values.again();
      drives.again();
      return { rendered: back.rendered, inserts };
    },
    out: (pair, side) => {
      const found = plan.outs.get(pair);
      return found ? view(found[side]) : null;
    },
    tap: (channelId, side, tap) => {
      const strip = plan.strips.get(channelId);
      return strip ? view(strip.taps[tap].pair[side]) : null;
    },
    silence: () => view(plan.silence)
  };
}

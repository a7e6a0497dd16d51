// The engine: a session in, blocks of samples out. No clock, no device, no file of its own.
// The same code plays in the page, prints on the server and measures in the tests.
import * as facts from '../routing/facts.ts';
import { settingsOf, type Session, type Tap } from '../session/entities.ts';
import { known } from '../session/facts.ts';
import { idsBy } from '../session/lookup.ts';
import { withHeld } from '../session/vcas.ts';
import type { Frames } from '../units.ts';
import { commit, type Change } from '../session/changes.ts';
import { createFades } from './fades.ts';
import { gainsOf, type Say, type StemLevels } from './gains.ts';
import { createCurves } from './lanes/read.ts';
import { createWhere } from './lanes/where.ts';
import { startKernel, type KernelModule } from '../kernel/kernel.ts';
import { CHUNK, CHUNK_PERIODS, METER_FLOATS, PERIOD } from '../kernel/period.ts';
import { createRunner, type Runner } from './runner.ts';
import type { Share } from './share.ts';
import { touchedBy } from './touched.ts';
import { roomOf, topologyOf } from './topology.ts';

/** Where recordings come from. `into` is all zero when it is called; frames outside the file stay so. */
export type Pcm = (mediaId: string, channel: number, from: Frames, into: Float32Array) => void;

export type Span = { readonly from: Frames; readonly to: Frames };

export type Engine = {
  /** Frames rendered since the last start or locate. */
  readonly rendered: () => Frames;
  /** Position on the timeline of the next frame. */
  readonly position: () => Frames;
  /** Cold start at a timeline position: states silent, every gain at its target. */
  readonly locate: (position: Frames) => void;
  readonly setLoop: (loop: Span | null) => void;
  /** Takes the session's present state, gliding there: of what `changes` touched, or of everything. */
  readonly update: (changes?: readonly Change[]) => void;
  /** What a version that is listened to adds to stems on their way into the mix bus, dB; it glides there with the next `update`. */
  readonly setStems: (levels: StemLevels) => void;
  /**
   * Goes back to the first kept frame at or after `rendered`, so that what was rendered ahead can be rendered again with the session
   * as it is now; the frame it went back to, or null where none is kept. Only with `keep`.
   */
  readonly rewind: (rendered: Frames) => Frames | null;
  /** Commits changes and takes them over at the first period that starts at or after `rendered` frames. */
  readonly schedule: (at: Frames, changes: readonly Change[]) => void;
  /** Timeline spans of the chunk under way, which a change of shape reads again, and of the next. */
  readonly under: () => Span[];
  /** Timeline spans that the next period will read from; empty where its chunk is already there. */
  readonly wanted: () => Span[];
  /** Renders the next period; results are in `out`, `tap` and `meters` until the next call. */
  readonly period: () => void;
  /** Any number of frames of interface outputs 1–2. */
  readonly render: (left: Float32Array, right: Float32Array) => void;
  /** A side of an interface output pair, 0 being outputs 1–2; all pairs are aligned. Silence where nothing goes. */
  readonly out: (side: 0 | 1, pair?: number) => Float32Array;
  /** A channel's signal, after fader and pan unless said otherwise; null where it has none, as it rests or is gone. */
  readonly tap: (channelId: string, side: 0 | 1, tap?: Tap) => Float32Array | null;
  /** Frames by which that signal is late. */
  readonly latency: (channelId: string, tap?: Tap) => Frames;
  /** Whether something is still held inside, an echo on its way, that will come out of its processor louder than a level. */
  readonly holding: (level: number) => boolean;
  /** Of one that runs ahead of another: whether that wants no more. */
  readonly ended: () => boolean;
  /** Buffers of a period that cross from one engine's share to the other's. */
  readonly crossing: () => number;
  /** Renders so many periods by the clock given: what each channel's strip costs, in the clock's units. */
  readonly costs: (periods: number, now: () => number) => ReadonlyMap<string, number>;
  /** Inserts that take level off, compressors and limiters, in the order of `reductions`; the same list as long as the plan is. */
  readonly reducers: () => readonly string[];
  /** The deepest gain reduction of each in dB (≤ 0) since the last reading. */
  readonly reductions: (into: Float32Array) => void;
  /** Copies and clears the meters: peak L, peak R, Σ L², Σ R² per entry of `order`. */
  readonly meters: (into: Float32Array) => void;
  /** Channel ids in the order of the meters, then interface output pairs as `#0`, then `id<pre` where a send takes what is before the fader. */
  readonly order: () => readonly string[];
};

export type FadesAt = { readonly late: Frames; readonly end: Frames };

/** What is listened to besides: a channel's signal before its inserts or before its fader. */
export type Listened = { readonly id: string; readonly tap: Tap };

export type EngineOptions = {
  readonly module: KernelModule;
  /** The engine's own copy: `schedule` commits to it. */
  readonly session: Session;
  readonly pcm: Pcm;
  /** Whether solo counts: in monitoring yes, in prints no. */
  readonly solo: boolean;
  /** Signals before the fader that `tap` will be asked for. */
  readonly listened?: readonly Listened[];
  /** Timeline frame from which on nothing new sounds; what rings goes on. */
  readonly until?: Frames;
  /** Where the mix's fades are, of what was recorded elsewhere: frames by which it plays late, and where they end. */
  readonly fadesAt?: FadesAt;
  /** Which part of the plan it runs, where two engines share the work. */
  readonly share?: Share;
  /** Whether it can be rewound: playback can, prints need not. */
  readonly keep?: boolean;
};

export function createEngine({
  module,
  session,
  pcm,
  solo,
  keep = false,
  listened = [],
  until = Infinity,
  fadesAt,
  share
}: EngineOptions): Engine {
  const pool: Float32Array[] | null = keep ? [] : null;
  const where = createWhere();
  /** For sums alone: the kernels of plans come and go. */
  const math = startKernel(module);
  const curves = createCurves(session, math);
  let stems: StemLevels = new Map();
  /** Stems whose levels were set since gains were aimed last. */
  let moved: readonly string[] = [];
  const heard = () => known(session, solo ? facts.heard : facts.printed);
  const targets = () => gainsOf(session, heard(), math, stems, curves);
  /** How many gains follow lanes, and a few more, so that not each new lane is another plan. */
  const roomForLanes = (): number => {
    let count = 0;
    const gains = targets();
    if (session.lane.size > 0)
      for (const id of session.channel.keys()) gains.channel(id, (_key, _target, course) => (count += course ? 1 : 0));
    return count + SPARE_LANES;
  };
  const begin = (before: Runner | null) =>
    createRunner({
      ...{ module, topology: topologyOf(session), session, pcm, pool, before, rendered, listened, until, fadesAt, share, where, curves },
      lanes: roomForLanes()
    });

  let rendered = 0;
  let runner = begin(null);
  const fades = createFades();
  let start: Frames = 0;
  let chunkStart: Frames = 0;
  let chunkNext: Frames = 0;
  /** Where each kept chunk began on the timeline, by the frames rendered until then. */
  const began = new Map<Frames, Frames>();
  let loop: Span | null = null;
  let pending: { at: Frames; changes: readonly Change[] }[] = [];
  /** Frames of the present period that `render` has given out. */
  let given = PERIOD;
  /** As far apart in time at every rate: there are only so many. */
  const keepEvery = KEEP_EVERY * Math.max(1, Math.ceil(settingsOf(session).rate / 48000));

  /** Another plan takes over while the one before is still heard; states of what stays are carried over. */
  const renew = () => {
    const before = runner;
    before.release();
    runner = begin(before);
    fades.begin(before, runner.warmUp);
    // In the middle of a chunk: its sources begin here, not with the next one.
    if (rendered % CHUNK !== 0) runner.fill(spansFrom(chunkStart, CHUNK, loop), settingsOf(session));
  };
  /** Aims the gains of channels and sends; more of them than there is room for may follow lanes now. */
  const aimGains = (ids: Iterable<string>, sends: Iterable<string>, snap: boolean) => {
    const gains = targets();
    let room = true;
    const say: Say = (key, target, course) => (room = runner.aimGain(key, target, course, snap) && room);
    for (const id of ids) gains.channel(id, say);
    for (const key of sends) gains.send(key, say);
    moved = [];
    if (room) return;
    renew();
    aimAll(false);
  };
  const aimInserts = (ids: Iterable<string>, snap: boolean) => {
    for (const id of ids) {
      const insert = session.insert.get(id);
      if (insert) runner.aimInsert(insert, snap);
    }
  };
  const aimAll = (snap: boolean) => {
    aimGains(session.channel.keys(), [], snap);
    aimInserts(session.insert.keys(), snap);
  };

  /** Whether an insert has to remember more now than its plan has room for, or less. */
  const otherRoom = (id: string) => {
    const insert = session.insert.get(id);
    const was = runner.plan.topology.rooms.get(id);
    return insert !== undefined && was !== undefined && roomOf(session, insert)?.frames !== was;
  };

  /** Whether another course of a lane may be another plan: it widens its channel, or an insert has to remember more. */
  const laneShapes = (id: string): boolean => {
    const lane = session.lane.get(id);
    const insert = lane?.insertId ? session.insert.get(lane.insertId) : undefined;
    return !lane || lane.of === 'spread' || (insert !== undefined && roomOf(session, insert) !== null);
  };

  const update = (changes?: readonly Change[]) => {
    const touched = changes && touchedBy(changes);
    curves.forget(touched?.lanes);
    const roomy = touched && (touched.tempo ? [...session.insert.keys()] : [...touched.inserts]).some(otherRoom);
    const laned = touched && [...touched.lanes].some(laneShapes);
    const reshaped = (!touched || touched.shape || roomy || laned) && topologyOf(session).signature !== runner.plan.topology.signature;
    // Other clips or pulses, like other ways, are faded in.
    const paced = touched?.tempo && [...session.channel.values()].some(({ pattern }) => pattern);
    if (reshaped || touched?.clips || touched?.patterns || paced) renew();
    else if (!touched) runner.setClips(session);
    if (!touched || touched.lanes.size > 0) runner.lead();
    if (!touched || touched.open) return aimAll(false);
    const owners = [...touched.lanes].flatMap((id) => session.lane.get(id)?.channelId ?? []);
    const inserts = [...touched.owners, ...owners].flatMap((id) => idsBy(session, 'insert', 'channelId', id));
    aimGains([...withHeld(session, [...touched.channels, ...touched.owners, ...owners]), ...moved], touched.sends, false);
    aimInserts(new Set([...touched.inserts, ...inserts]), false);
  };

  const spans = (): Span[] => spansFrom(chunkNext, CHUNK, loop);

  const fillChunks = () => {
    const parts = spans();
    let at = rendered - (rendered % CHUNK);
    where.back(at);
    parts.forEach(({ from, to }, i) => {
      if (i > 0) where.jump(at, parts[i - 1].to, from);
      at += to - from;
    });
    for (const each of [runner, ...fades.runners()]) each.fill(parts, settingsOf(session));
    chunkStart = chunkNext;
    chunkNext = parts.at(-1)!.to;
  };

  const period = () => {
    if (pending.some((move) => move.at <= rendered)) {
      const due = pending.filter((move) => move.at <= rendered);
      pending = pending.filter((move) => move.at > rendered);
      for (const { changes } of due) {
        commit(session, changes);
        update(changes);
      }
    }
    const phase = (rendered / PERIOD) % CHUNK_PERIODS;
    if (keep && rendered % keepEvery === 0 && !fades.fading()) {
      runner.keep(rendered);
      began.set(rendered, phase === 0 ? chunkNext : chunkStart);
      for (const frame of began.keys()) if (began.size > MOST_KEPT) began.delete(frame);
    }
    if (phase === 0) fillChunks();
    // Oldest first: each hands on what goes in to what remembers.
    let before: Runner | null = null;
    for (const each of [...fades.runners(), runner]) {
      if (before) each.follow(before);
      each.run(rendered, phase);
      before = each;
    }
    fades.advance();
    rendered += PERIOD;
  };

  const locate = (position: Frames) => {
    for (const { changes } of pending) commit(session, changes);
    pending = [];
    runner.release();
    fades.end();
    began.clear();
    start = chunkStart = chunkNext = position;
    rendered = 0;
    where.start(position);
    runner = begin(null);
    given = PERIOD;
    aimAll(true);
  };
  locate(0);

  const out = (side: 0 | 1, pair = 0) => fades.heard(runner, (one) => one.out(pair, side)) ?? runner.silence();
  return {
    rendered: () => rendered,
    position: () => {
      if (rendered === 0) return start;
      const into = rendered % CHUNK;
      if (into === 0) return chunkNext;
      let left = into;
      for (const { from, to } of spansFrom(chunkStart, CHUNK, loop)) {
        if (left < to - from) return from + left;
        left -= to - from;
      }
      return chunkNext;
    },
    locate,
    setLoop: (next) => {
      loop = next && next.to - next.from >= CHUNK ? next : null;
    },
    update,
    setStems: (levels) => {
      moved = [...new Set([...stems.keys(), ...levels.keys()])];
      stems = levels;
    },
    rewind: (from) => {
      if (!keep || fades.fading()) return null;
      const back = runner.rewind(from);
      if (!back) return null;
      rendered = back.rendered;
      where.back(rendered);
      chunkNext = began.get(rendered)!;
      // Within a chunk its sources are read again, up to where it ends.
      if (rendered % CHUNK !== 0) fillChunks();
      given = PERIOD;
      // What was aimed at after that frame is aimed at again from there.
      aimGains(session.channel.keys(), [], false);
      aimInserts(back.inserts, false);
      return rendered;
    },
    schedule: (at, changes) => {
      pending.push({ at, changes });
    },
    under: () => [...(rendered % CHUNK === 0 ? [] : spansFrom(chunkStart, CHUNK, loop)), ...spans()],
    wanted: () => (rendered % CHUNK === 0 ? spans() : []),
    period,
    render: (left, right) => {
      let done = 0;
      while (done < left.length) {
        if (given === PERIOD) {
          period();
          given = 0;
        }
        const count = Math.min(PERIOD - given, left.length - done);
        const part = (side: 0 | 1) => (count === PERIOD ? out(side) : out(side).subarray(given, given + count));
        left.set(part(0), done);
        right.set(part(1), done);
        given += count;
        done += count;
      }
    },
    out,
    tap: (channelId, side, tap = 'post') => fades.heard(runner, (one) => one.tap(channelId, side, tap)),
    latency: (channelId, tap = 'post') => runner.plan.strips.get(channelId)?.taps[tap].latency ?? 0,
    holding: (level) => runner.holding(rendered, level),
    ended: () => runner.ended(),
    crossing: () => runner.plan.crossing.length / PERIOD,
    costs: (periods, now) => {
      const costs = new Map<string, number>();
      for (let i = 0; i < periods; i++) {
        const phase = (rendered / PERIOD) % CHUNK_PERIODS;
        if (phase === 0) {
          const began = now();
          fillChunks();
          runner.spread(now() - began, costs);
        }
        runner.costs(rendered, phase, now, costs);
        rendered += PERIOD;
      }
      return costs;
    },
    reducers: () => runner.plan.reducers,
    reductions: (into) => {
      const { reducers, controls } = runner.plan;
      for (let i = 0; i < Math.min(reducers.length, into.length); i++) into[i] = controls.get(reducers[i])!.reduction!(runner.plan);
    },
    meters: (into) => {
      const { f32, meters, order } = runner.plan;
      const cells = f32.subarray(meters >> 2, (meters >> 2) + order.length * METER_FLOATS);
      into.set(cells.subarray(0, into.length));
      cells.fill(0);
    },
    order: () => runner.plan.order
  };
}

/** Frames between kept states at 48 kHz. */
const KEEP_EVERY = 2 * PERIOD;
/** Gains that may follow lanes besides those that do when a plan is made. */
const SPARE_LANES = 48;
/** Beginnings of chunks remembered: more than snapshots. */
const MOST_KEPT = 64;

/** The timeline spans that `count` frames from `position` cover, with the jumps of a loop. */
export function spansFrom(position: Frames, count: number, loop: Span | null): Span[] {
  const list: Span[] = [];
  let from = position;
  let left = count;
  while (left > 0) {
    const end = loop && from < loop.to ? Math.min(from + left, loop.to) : from + left;
    list.push({ from, to: end });
    left -= end - from;
    from = loop && end === loop.to ? loop.from : end;
  }
  // The last span's end is where the next chunk begins, loop included.
  const last = list.at(-1)!;
  if (loop && last.to === loop.to) list.push({ from: loop.from, to: loop.from });
  return list;
}

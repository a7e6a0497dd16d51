// The engine: a session in, blocks of samples out. No clock, no device, no file of its own.
// The same code plays in the page, prints on the server and measures in the tests.
import { audibility } from '../routing/audibility.ts';
import { settingsOf, type Clip, type Insert, type Session } from '../session/entities.ts';
import type { Frames } from '../units.ts';
import { commit, type Change } from '../session/changes.ts';
import { compile, type Plan } from './compile.ts';
import type { Instance } from './processors/processor.ts';
import { gainsOf } from './gains.ts';
import type { KernelModule } from './kernel.ts';
import { CHUNK, CHUNK_PERIODS, METER_FLOATS, PERIOD } from './layout.ts';
import { touchedBy } from './touched.ts';
import { sortedEdges, topologyOf, type PlanEdge, type Topology } from './topology.ts';

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
  /** Commits changes and takes them over at the first period that starts at or after `rendered` frames. */
  readonly schedule: (at: Frames, changes: readonly Change[]) => void;
  /** Timeline spans that the next period will read from; empty where its chunk is already there. */
  readonly wanted: () => Span[];
  /** Renders the next period; results are in `out`, `tap` and `meters` until the next call. */
  readonly period: () => void;
  /** Any number of frames of interface outputs 1–2. */
  readonly render: (left: Float32Array, right: Float32Array) => void;
  readonly out: (side: 0 | 1) => Float32Array;
  /** A channel's signal after fader and pan. */
  readonly tap: (channelId: string, side: 0 | 1) => Float32Array;
  /** Frames by which a channel's signal after fader and pan is late. */
  readonly latency: (channelId: string) => Frames;
  /** Deepest gain reduction of an insert in dB (≤ 0) since the last reading. */
  readonly reduction: (insertId: string) => number;
  /** Copies and clears the meters: peak L, peak R, Σ L², Σ R² per channel in `order`. */
  readonly meters: (into: Float32Array) => void;
  /** Channel ids in the order of the meters. */
  readonly order: () => readonly string[];
};

export type EngineOptions = {
  readonly module: KernelModule;
  /** The engine's own copy: `schedule` commits to it. */
  readonly session: Session;
  readonly pcm: Pcm;
  /** Whether solo counts: in monitoring yes, in prints no. */
  readonly solo: boolean;
};

export function createEngine({ module, session, pcm, solo }: EngineOptions): Engine {
  const { rate } = settingsOf(session);
  let topology = topologyOf(session);
  let plan: Plan = compile(module, topology, rate);
  let heard = audibility(session, { solo });
  let gains = gainsOf(session, heard, plan.kernel);
  let clips = clipsByChannel(session);
  let start: Frames = 0;
  let rendered = 0;
  let chunkStart: Frames = 0;
  let chunkNext: Frames = 0;
  let loop: Span | null = null;
  let fading = false;
  let pending: { at: Frames; changes: readonly Change[] }[] = [];
  /** Frames of the present period that `render` has given out. */
  let given = PERIOD;

  const aimAt = (snap: boolean) => (key: string, target: number) => {
    const ramp = plan.ramps.get(key);
    if (ramp) plan.ramps.aim(ramp, target, snap);
  };
  /** Instances of processors in which something may move. */
  const moving = new Set<Instance>();
  const aimInsert = (insert: Insert, snap: boolean) => {
    plan.controls.get(insert.id)?.aim(insert, { rate, bpm: settingsOf(session).bpm }, plan, snap);
    const instance = plan.instanceOf.get(insert.id);
    if (instance) moving.add(instance);
  };

  const aimAll = (snap: boolean) => {
    heard = audibility(session, { solo });
    gains = gainsOf(session, heard, plan.kernel);
    const say = aimAt(snap);
    if (fading) for (const edge of fadingEdges()) for (const suffix of ['', ' L', ' R']) say(edge.key + suffix, 0);
    for (const id of session.channel.keys()) gains.channel(id, say);
    for (const insert of session.insert.values()) aimInsert(insert, snap);
  };

  /** Compiles for the session as it is now; gains and states of what stays are carried over. */
  const recompile = () => {
    const before = plan;
    plan = compile(module, withFading(topology, before, session), rate);
    moving.clear();
    for (const instance of plan.instanceOf.values()) moving.add(instance);
    plan.ramps.adopt(before.ramps);
    for (const [id, control] of plan.controls) {
      const old = before.controls.get(id);
      if (old) control.adopt(old, before, plan);
      // What is new sounds with its values from its first period.
      const insert = session.insert.get(id);
      if (!old && insert) aimInsert(insert, true);
    }
    for (const [key, { ring, frames }] of plan.holds) {
      const old = before.holds.get(key);
      if (old) plan.f32.set(before.f32.subarray(old.ring >> 2, (old.ring >> 2) + frames), ring >> 2);
    }
    for (const [id, { chunks }] of plan.strips)
      before.strips.get(id)?.chunks.forEach((from, i) => {
        chunks[i]?.set(from);
      });
    // A channel that is new to the plan begins at its own level; its edges still rise from silence.
    const own = (key: string) => key.startsWith('g ') || key.startsWith('i ');
    const fresh = gainsOf(session, heard, plan.kernel);
    for (const id of plan.order) if (!before.strips.has(id)) fresh.channel(id, (key, target) => own(key) && aimAt(true)(key, target));
    fading = plan.topology.edges.length > topology.edges.length;
  };

  /** Edges of the running plan that the session no longer has. */
  const fadingEdges = () => {
    const present = new Set(topology.edges.map((edge) => edge.key));
    return plan.topology.edges.filter((edge) => !present.has(edge.key));
  };

  const update = (changes?: readonly Change[]) => {
    const touched = changes && touchedBy(changes);
    if (!touched || touched.clips || touched.shape) clips = clipsByChannel(session);
    if (!touched || touched.shape) {
      topology = topologyOf(session);
      if (topology.signature !== plan.topology.signature) recompile();
    }
    if (!touched || touched.open) {
      aimAll(false);
      return;
    }
    const say = aimAt(false);
    for (const id of touched.channels) gains.channel(id, say);
    for (const key of touched.sends) gains.send(key, say);
    for (const id of touched.inserts) {
      const insert = session.insert.get(id);
      if (insert) aimInsert(insert, false);
    }
  };

  const spans = (): Span[] => spansFrom(chunkNext, CHUNK, loop);

  const fillChunks = () => {
    const parts = spans();
    for (const [id, { chunks }] of plan.strips)
      chunks.forEach((into, channel) => {
        into.fill(0);
        const own = clips.get(id) ?? [];
        let at = 0;
        for (const { from, to } of parts) {
          for (const clip of own)
            readClip(clip, clip.channel + channel, from, to - from === CHUNK ? into : into.subarray(at, at + to - from), pcm);
          at += to - from;
        }
      });
    chunkStart = chunkNext;
    chunkNext = parts.at(-1)!.to;
  };

  const period = () => {
    if (pending.length && pending.some((move) => move.at <= rendered)) {
      const due = pending.filter((move) => move.at <= rendered);
      pending = pending.filter((move) => move.at > rendered);
      for (const { changes } of due) {
        commit(session, changes);
        update(changes);
      }
    }
    if (fading && !plan.ramps.moving()) recompile();
    const phase = (rendered / PERIOD) % CHUNK_PERIODS;
    if (phase === 0) fillChunks();
    const { kernel, f32 } = plan;
    plan.ramps.advance(f32);
    for (const instance of moving) if (!instance.advance(plan)) moving.delete(instance);
    kernel.run(plan.ops, plan.opCount, BigInt(rendered), phase);
    rendered += PERIOD;
  };

  const view = (address: number) => plan.f32.subarray(address >> 2, (address >> 2) + PERIOD);

  const locate = (position: Frames) => {
    for (const { changes } of pending) commit(session, changes);
    pending = [];
    clips = clipsByChannel(session);
    topology = topologyOf(session);
    plan = compile(module, topology, rate);
    moving.clear();
    fading = false;
    start = chunkStart = chunkNext = position;
    rendered = 0;
    given = PERIOD;
    aimAll(true);
  };
  locate(0);

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
    schedule: (at, changes) => {
      pending.push({ at, changes });
    },
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
        left.set(view(plan.out[0]).subarray(given, given + count), done);
        right.set(view(plan.out[1]).subarray(given, given + count), done);
        given += count;
        done += count;
      }
    },
    out: (side) => view(plan.out[side]),
    tap: (channelId, side) => view(plan.strips.get(channelId)!.taps.post.pair[side]),
    latency: (channelId) => plan.strips.get(channelId)!.taps.post.late,
    reduction: (insertId) => plan.controls.get(insertId)?.reduction?.(plan) ?? 0,
    meters: (into) => {
      const cells = plan.f32.subarray(plan.meters >> 2, (plan.meters >> 2) + plan.order.length * METER_FLOATS);
      into.set(cells);
      cells.fill(0);
    },
    order: () => plan.order
  };
}

/** The new topology together with edges that must fade out first, where that closes no loop. */
function withFading(next: Topology, before: Plan, session: Session): Topology {
  const widths = new Map(next.strips.map(({ channel }) => [channel.id, channel.width]));
  const staying = (id: string | null) => id === null || widths.get(id) === before.strips.get(id)?.strip.channel.width;
  const present = new Set(next.edges.map((edge) => edge.key));
  const sounding = (edge: PlanEdge) => ['', ' L', ' R'].some((suffix) => (before.ramps.get(edge.key + suffix)?.value ?? 0) !== 0);
  const ghosts = before.topology.edges.filter((edge) => !present.has(edge.key) && sounding(edge) && staying(edge.from) && staying(edge.to));
  const levels = new Map(next.strips.map(({ channel, level }) => [channel.id, level]));
  // A ghost that runs with the flow keeps the plan's order valid; one against it would need a second order.
  const fitting = ghosts.filter((edge) => edge.to === null || levels.get(edge.from)! < levels.get(edge.to)!);
  if (fitting.length === 0) return next;
  const born = (id: string) => session.channel.get(id)?.born ?? 0;
  return { ...next, edges: sortedEdges([...next.edges, ...fitting], born) };
}

function clipsByChannel(session: Session): Map<string, Clip[]> {
  const byChannel = new Map<string, Clip[]>();
  for (const clip of session.clip.values()) byChannel.set(clip.channelId, [...(byChannel.get(clip.channelId) ?? []), clip]);
  return byChannel;
}

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

/** Adds nothing, replaces nothing outside the clip: its part of `into`, which starts at timeline frame `from`. */
function readClip(clip: Clip, channel: number, from: Frames, into: Float32Array, pcm: Pcm): void {
  const begin = Math.max(clip.start, from);
  const end = Math.min(clip.start + clip.length, from + into.length);
  if (begin >= end) return;
  const whole = begin === from && end === from + into.length;
  pcm(clip.mediaId, channel, clip.offset + begin - clip.start, whole ? into : into.subarray(begin - from, end - from));
}

/** Last frame of any clip plus one. */
export const endOf = (session: Session): Frames => Math.max(0, ...[...session.clip.values()].map((clip) => clip.start + clip.length));

// The mix worker: its own copy of the session, the engine, and a ring that it keeps filled ahead of what is played.
/// <reference lib="webworker" />
import { createEngine, spansFrom, type Engine, type Span } from '$core/engine/engine';
import { CHUNK, PERIOD } from '$core/kernel/period';
import { touchedBy } from '$core/engine/touched';
import type { Change } from '$core/session/changes';
import { settingsOf, type Session } from '$core/session/entities';
import { decodeSession } from '$core/session/tables';
import { createHearing, type Hearing } from './hearing';
import { createMonitor } from './monitor';
import { createPcmCache, turn } from './pcmCache';
import type { FromMixer, ToMixer } from './protocol';
import { CELL, ringOver, shownIn, SLOT, slotMeters, slotOf, slotReductions, slotsIn, type Ring } from './ring';

/** What is kept ready, ms, whatever the rate. */
const AHEAD_MS = 96;
/** What is left as it is ahead of the play position, ms: time to render what follows again. */
const MARGIN_MS = 10.6;
/** What lies ahead is rendered again at most once in so many ms. */
const BETWEEN_MS = 20;
/** Slots rendered before messages are looked at. */
const BURST = 4;
/** What is there before it begins to sound, s: time to fetch what comes after. */
const PREROLL_S = 0.17;
/** What is fetched before it is needed, s. */
const PREFETCH_S = 1.36;
/** Time between looks at what is to be fetched, s. */
const PREFETCH_EVERY_S = 0.085;

type Desk = { readonly session: Session; readonly engine: Engine; readonly ring: Ring; readonly rate: number; readonly hearing: Hearing };

const cache = createPcmCache();
const monitor = createMonitor();
const send = (message: FromMixer) => postMessage(message);
let desk: Desk | null = null;
let playing = false;
/** Counts starts and stops, so that a pump that waited for data knows when it is no longer wanted. */
let run = 0;
let orderSerial = 0;
let sentOrder: readonly string[] = [];
let loop: Span | null = null;

onmessage = ({ data }: MessageEvent<ToMixer>) => {
  if (data.kind === 'open') {
    run++;
    playing = false;
    const session = decodeSession(data.document);
    const engine = createEngine({ module: data.kernel as never, session, pcm: cache.read, solo: true, keep: true });
    desk = { session, engine, ring: ringOver(data.buffer), rate: settingsOf(session).rate, hearing: createHearing(session, engine) };
    due = null;
    return;
  }
  if (data.kind === 'listen') return monitor.listen(data.listening);
  if (!desk) return;
  if (data.kind === 'changes') {
    const heard = desk.hearing.version();
    take(desk.hearing.commit(data.changes));
    // A version that was taken away is no longer heard.
    if (desk.hearing.version() !== heard) send({ kind: 'heard', version: null });
    if (playing && performance.now() < lastTurn + BETWEEN_MS) soon();
    else takeOver(desk);
  } else if (data.kind === 'hear') hear(desk, data.version, data.when);
  else if (data.kind === 'loop') desk.engine.setLoop((loop = data.loop));
  else if (data.kind === 'play') start(desk, data.from);
  else {
    run++;
    playing = false;
    Atomics.store(desk.ring.control, CELL.playing, 0);
    settle();
  }
};

/** Changes that are in the session but not yet in what sounds; a version's levels are in none of them. */
let waiting: Change[] = [];
let stale = false;
const take = (changes: readonly Change[]) => {
  // Not as arguments: there may be more of them than a call can have.
  for (const change of changes) waiting.push(change);
  stale = true;
};
/** A version that is to be heard from a place of the timeline on. */
let due: { readonly version: string | null; readonly at: number } | null = null;
/** The running number of the slot that is written next: the end of what is written, or before it where that is rendered again. */
let cursor = 0;
/** Changes were taken over, and no slot with them is written yet. */
let turning = false;
let lastTurn = 0;
let turnTimer: ReturnType<typeof setTimeout> | undefined;

/** At once, or as soon as it may be: a continuous drag must not render everything ahead again for each of its moves. */
function soon(): void {
  if (turnTimer !== undefined) return;
  turnTimer = setTimeout(
    () => {
      turnTimer = undefined;
      if (desk) takeOver(desk);
    },
    Math.max(0, lastTurn + BETWEEN_MS - performance.now())
  );
}

const none = () => {
  waiting = [];
  stale = false;
};
/** The first slot that there is still time to render again. */
const soonest = ({ control }: Ring, rate: number) =>
  Math.max(Atomics.load(control, CELL.read), Atomics.load(control, CELL.start)) + slotsIn(MARGIN_MS, rate);

/** Lets a version be heard: at once, or from the next bar on, which may be rendered already. */
function hear(desk: Desk, version: string | null, when: 'now' | 'bar'): void {
  const { ring, session, rate } = desk;
  due = null;
  if (!playing || when === 'now') return turnTo(desk, version);
  const { bpm, beatsPerBar } = settingsOf(session);
  const bar = ((rate * 60) / bpm) * beatsPerBar;
  const from = soonest(ring, rate);
  const place = from < cursor ? ring.positions[slotOf(from)] : desk.engine.position();
  const next = Math.ceil(place / bar) * bar;
  // Past the end of a loop it goes on where the loop begins.
  const at = loop && place < loop.to && next >= loop.to ? loop.from : next;
  for (let slot = from; slot < cursor; slot++) if (holds(ring.positions[slotOf(slot)], at)) return turnTo(desk, version, slot);
  due = { version, at };
}
/** Whether the slot that begins at a place of the timeline is the one in which something is due. */
const holds = (place: number, at: number) => at >= place && at < place + SLOT;

function turnTo(desk: Desk, version: string | null, slot = 0): void {
  due = null;
  take(desk.hearing.hear(version));
  send({ kind: 'heard', version: desk.hearing.version() });
  takeOver(desk, slot);
}

/** Goes back to just ahead of what is played, where that can be, and lets the changes begin to sound there, or at a later slot. */
function takeOver({ engine, ring, rate, session }: Desk, at = 0): void {
  const changes = waiting;
  if (!stale) return;
  // Nothing sounds: a start makes its plan anew, of the session as it is then.
  if (!playing) return none();
  // What newly sounds is read before it begins: else it would begin in the middle of its fade.
  const { clips, shape } = touchedBy(changes);
  if ((clips || shape) && !cache.ready(session, engine.under())) return fetched(session, engine);
  none();
  lastTurn = performance.now();
  const { control } = ring;
  const start = Atomics.load(control, CELL.start);
  const safe = Math.max(at, soonest(ring, rate));
  // Another plan takes longer to make than is left there: a change of shape begins where the ring is written.
  const back = shape || clips ? null : engine.rewind((safe - start) * SLOT);
  // What was rendered before stays to be played until it is written over: late is better than a gap.
  if (back !== null) cursor = start + back / SLOT;
  turning = true;
  engine.update(changes);
}

/** Fetches what the chunks under way need, and then takes the changes over. */
function fetched(session: Session, engine: Engine): void {
  const mine = run;
  const again = () => {
    if (desk && mine === run) takeOver(desk);
  };
  cache.load(session, engine.under()).then(again, (error: unknown) => send({ kind: 'trouble', message: String(error) }));
}

/** What was to be heard from a bar on is heard at once where that bar will not be reached. */
function settle(): void {
  if (desk && due) turnTo(desk, due.version);
}

function start({ engine, ring }: Desk, from: number): void {
  const { control } = ring;
  none();
  settle();
  playing = true;
  engine.locate(from);
  // From here on slots belong to a new epoch: the worklet drops what is left of the old one.
  cursor = Atomics.load(control, CELL.write);
  Atomics.store(control, CELL.start, cursor);
  Atomics.add(control, CELL.epoch, 1);
  Atomics.notify(control, CELL.epoch);
  Atomics.store(control, CELL.playing, 1);
  void pump(++run);
}

/** Slots between what is written and what is played, of the present epoch. */
const ahead = (control: Int32Array) =>
  Atomics.load(control, CELL.write) - Math.max(Atomics.load(control, CELL.read), Atomics.load(control, CELL.start));

async function pump(mine: number): Promise<void> {
  try {
    let written = 0;
    let chunks = 0;
    while (playing && mine === run && desk) {
      const { engine, ring, session, rate } = desk;
      const spans = engine.wanted();
      const needed = written === 0 ? beyond(spans, Math.ceil(PREROLL_S * rate)) : spans;
      if (!cache.ready(session, needed)) {
        await cache.load(session, needed);
        continue;
      }
      if (spans.length && chunks++ % Math.ceil((PREFETCH_EVERY_S * rate) / CHUNK) === 0)
        prefetch(session, spans, Math.ceil(PREFETCH_S * rate));
      if (cursor >= Atomics.load(ring.control, CELL.write) && ahead(ring.control) >= slotsIn(AHEAD_MS, rate)) await played(ring.control);
      else {
        if (due && holds(engine.position(), due.at)) turnTo(desk, due.version, cursor);
        writeSlot(engine, ring);
        if (++written % BURST === 0) await turn();
      }
    }
  } catch (error) {
    playing = false;
    if (desk) Atomics.store(desk.ring.control, CELL.playing, 0);
    send({ kind: 'trouble', message: error instanceof Error ? error.message : String(error) });
  }
}

/** These spans and so many frames that are played after them, with the jumps of a loop. */
const beyond = (spans: readonly Span[], frames: number): Span[] =>
  spans.length ? [...spans, ...spansFrom(spans.at(-1)!.to, frames, loop)] : [];

/** One request at a time for much at once: each opens every recording. */
let prefetching = false;
function prefetch(session: Session, spans: readonly Span[], frames: number): void {
  if (prefetching || cache.ready(session, beyond(spans, frames / 2))) return;
  prefetching = true;
  // A failure here shows when the pump needs the data itself.
  const done = () => (prefetching = false);
  cache.load(session, beyond(spans, frames)).then(done, done);
}

/** Waits until the worklet has taken a slot, or a little while. */
async function played(control: Int32Array): Promise<void> {
  const waited = Atomics.waitAsync?.(control, CELL.read, Atomics.load(control, CELL.read), 20);
  if (waited?.async) await waited.value;
  else await new Promise((resolve) => setTimeout(resolve, 4));
}

const left = new Float32Array(SLOT);
const right = new Float32Array(SLOT);

function writeSlot(engine: Engine, ring: Ring): void {
  const { control } = ring;
  const slot = slotOf(cursor);
  ring.positions[slot] = engine.position();
  for (let half = 0; half < SLOT / PERIOD; half++) {
    engine.period();
    const at = slot * SLOT * 2 + half * PERIOD;
    monitor.write(engine, left, right, half * PERIOD);
    ring.audio.set(left.subarray(half * PERIOD, (half + 1) * PERIOD), at);
    ring.audio.set(right.subarray(half * PERIOD, (half + 1) * PERIOD), at + SLOT);
  }
  const order = engine.order();
  if (order !== sentOrder) {
    sentOrder = order;
    send({ kind: 'order', serial: ++orderSerial, ...shownIn(order, engine.reducers()) });
  }
  ring.orders[slot] = orderSerial;
  engine.meters(slotMeters(ring, slot));
  engine.reductions(slotReductions(ring, slot));
  cursor += 1;
  if (cursor > Atomics.load(control, CELL.write)) Atomics.store(control, CELL.write, cursor);
  if (turning && cursor > Atomics.load(control, CELL.read)) {
    turning = false;
    Atomics.store(control, CELL.turned, cursor - 1);
    Atomics.add(control, CELL.turns, 1);
    Atomics.notify(control, CELL.turns);
  }
}

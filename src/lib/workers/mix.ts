// The mix worker: its own copy of the session, the engine, and a ring that it keeps filled ahead of what is played.
/// <reference lib="webworker" />
import { createEngine, type Engine, type Span } from '$core/engine/engine';
import { PERIOD } from '$core/engine/layout';
import { commit } from '$core/session/changes';
import type { Session } from '$core/session/entities';
import { decodeSession } from '$core/session/tables';
import { createPcmCache } from './pcmCache';
import type { FromMixer, ToMixer } from './protocol';
import { CELL, ringOver, SLOT, slotMeters, slotOf, type Ring } from './ring';

/** Slots kept ready: 36 × 128 frames are 96 ms at 48 kHz. A fader is heard that much later. */
const AHEAD = 36;
/** Frames fetched before they are needed. */
const PREFETCH = 65536;

type Desk = { readonly session: Session; readonly engine: Engine; readonly ring: Ring };

const cache = createPcmCache();
const send = (message: FromMixer) => postMessage(message);
let desk: Desk | null = null;
let playing = false;
/** Counts starts and stops, so that a pump that waited for data knows when it is no longer wanted. */
let run = 0;
let orderSerial = 0;
let sentOrder: readonly string[] = [];

onmessage = ({ data }: MessageEvent<ToMixer>) => {
  if (data.kind === 'open') {
    run++;
    playing = false;
    const session = decodeSession(data.document);
    const engine = createEngine({ module: data.kernel as never, session, pcm: cache.read, solo: true });
    desk = { session, engine, ring: ringOver(data.buffer) };
    return;
  }
  if (!desk) return;
  if (data.kind === 'changes') {
    commit(desk.session, data.changes);
    desk.engine.update(data.changes);
  } else if (data.kind === 'loop') desk.engine.setLoop(data.loop);
  else if (data.kind === 'play') start(desk, data.from);
  else {
    run++;
    playing = false;
    Atomics.store(desk.ring.control, CELL.playing, 0);
  }
};

function start({ engine, ring }: Desk, from: number): void {
  const { control } = ring;
  playing = true;
  engine.locate(from);
  // From here on slots belong to a new epoch: the worklet drops what is left of the old one.
  Atomics.store(control, CELL.start, Atomics.load(control, CELL.write));
  Atomics.add(control, CELL.epoch, 1);
  Atomics.store(control, CELL.playing, 1);
  void pump(++run);
}

/** Slots between what is written and what is played, of the present epoch. */
const ahead = (control: Int32Array) =>
  Atomics.load(control, CELL.write) - Math.max(Atomics.load(control, CELL.read), Atomics.load(control, CELL.start));

async function pump(mine: number): Promise<void> {
  try {
    while (playing && mine === run && desk) {
      const { engine, ring, session } = desk;
      const spans = engine.wanted();
      if (!cache.ready(session, spans)) {
        await cache.load(session, spans);
        continue;
      }
      if (spans.length) prefetch(session, spans);
      if (ahead(ring.control) >= AHEAD) await played(ring.control);
      else writeSlot(engine, ring);
    }
  } catch (error) {
    playing = false;
    if (desk) Atomics.store(desk.ring.control, CELL.playing, 0);
    send({ kind: 'trouble', message: error instanceof Error ? error.message : String(error) });
  }
}

function prefetch(session: Session, spans: readonly Span[]): void {
  const { to } = spans.at(-1)!;
  const next = [{ from: to, to: to + PREFETCH }];
  // A failure here shows when the pump needs the data itself.
  if (!cache.ready(session, next)) cache.load(session, next).catch(() => undefined);
}

/** Waits until the worklet has taken a slot, or a little while. */
async function played(control: Int32Array): Promise<void> {
  const waited = Atomics.waitAsync?.(control, CELL.read, Atomics.load(control, CELL.read), 20);
  if (waited?.async) await waited.value;
  else await new Promise((resolve) => setTimeout(resolve, 4));
}

function writeSlot(engine: Engine, ring: Ring): void {
  const write = Atomics.load(ring.control, CELL.write);
  const slot = slotOf(write);
  ring.positions[slot] = engine.position();
  for (let half = 0; half < SLOT / PERIOD; half++) {
    engine.period();
    const at = slot * SLOT * 2 + half * PERIOD;
    ring.audio.set(engine.out(0), at);
    ring.audio.set(engine.out(1), at + SLOT);
  }
  const order = engine.order();
  if (order !== sentOrder) {
    sentOrder = order;
    send({ kind: 'order', serial: ++orderSerial, ids: order });
  }
  ring.orders[slot] = orderSerial;
  engine.meters(slotMeters(ring, slot));
  Atomics.store(ring.control, CELL.write, write + 1);
}

// The mix worker on a simulated clock: a device that takes slots in its own time, at several rates, and the recordings' server in
// memory. What it plays is what the engine renders offline, sample by sample, moves and loops and failures included.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Command } from '$core/commands/index';
import { planBatch } from '$core/commands/plan';
import { createEngine } from '$core/engine/engine';
import { inPlace } from '$core/prints/inPlace';
import { newSession } from '$core/session/create';
import { commit, differences, fork } from '$core/session/changes';
import type { Session } from '$core/session/entities';
import { decodeSession, encodeSession } from '$core/session/tables';
import { hashed, pcmServer } from '../../../tests/oracle/pcmServer';
import { carryOut, module, noise } from '../../../tests/oracle/rig';
import type { FromMixer, ToMixer } from './protocol';
import { CELL, ringBuffer, ringOver, SLOT, slotOf, slotsIn, type Ring } from './ring';

const SECONDS = 4;

/** Two tracks, a bus, an echo and a reverb, at a rate. */
function desk(rate: number): { session: Session; recordings: Map<string, Float32Array[]> } {
  const session = newSession({ name: 'Played', rate });
  const recordings = new Map([
    ['m-a', [noise(rate * SECONDS, 1)]],
    ['m-b', [noise(rate * SECONDS, 2), noise(rate * SECONDS, 3)]]
  ]);
  const media = (id: string, channels: number) => ({
    ...{ id, name: `${id}.wav`, sha256: '0'.repeat(64), rate, channels, frames: rate * SECONDS, encoding: 'f32', peakDb: 0, origin: null }
  });
  carryOut(
    session,
    {
      do: 'tracks.add',
      tracks: [
        { id: 'a', name: 'A', media: media('m-a', 1) },
        { id: 'b', name: 'B', media: media('m-b', 2) }
      ]
    } as unknown as Command,
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a', 'b'] },
    { do: 'returns.add', id: 'echo', name: 'Echo', effect: 'delay' },
    { do: 'returns.add', id: 'room', name: 'Room' },
    {
      do: 'sends.set',
      sends: [
        { source: 'a', target: 'echo', level: -6 },
        { source: 'b', target: 'room', level: -9 }
      ]
    },
    { do: 'inserts.add', id: 'comp', channelId: 'bus', type: 'comp' }
  );
  return { session, recordings };
}

let said: FromMixer[];
let send: (message: ToMixer) => void;
/** A worker of its own for each test. */
beforeEach(async () => {
  vi.resetModules();
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] });
  said = [];
  vi.stubGlobal('postMessage', (message: FromMixer) => said.push(message));
  vi.stubGlobal('onmessage', null);
  // The clock is ours: no waiting on shared memory.
  vi.stubGlobal('Atomics', new Proxy(Atomics, { get: (real, name) => (name === 'waitAsync' ? undefined : real[name as keyof Atomics]) }));
  await import('./mix');
  const worker = globalThis as unknown as { onmessage: (event: { data: ToMixer }) => void };
  send = (data) => worker.onmessage({ data });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

/** Lets everything that waits for nothing but its turn have it. */
async function settle(): Promise<void> {
  for (let i = 0; i < 12; i++) await new Promise((resolve) => setImmediate(resolve));
}

/** The device: takes so many slots, one every `SLOT / rate` seconds of the simulated clock; counts what was not there in time. */
function device(ring: Ring, rate: number) {
  const { control } = ring;
  let missed = 0;
  let most = 0;
  return {
    missed: () => missed,
    /** The most that was ever ready, slots. */
    most: () => most,
    take: async (slots: number): Promise<{ left: Float32Array; positions: number[] }> => {
      const left = new Float32Array(slots * SLOT);
      const positions: number[] = [];
      for (let n = 0; n < slots; n++) {
        await vi.advanceTimersByTimeAsync((SLOT * 1000) / rate);
        await settle();
        const read = Math.max(control[CELL.read], control[CELL.start]);
        most = Math.max(most, control[CELL.write] - read);
        if (control[CELL.write] <= read) {
          missed++;
          continue;
        }
        const slot = slotOf(read);
        left.set(ring.audio.subarray(slot * SLOT * 2, slot * SLOT * 2 + SLOT), n * SLOT);
        positions.push(ring.positions[slot]);
        control[CELL.read] = read + 1;
      }
      return { left, positions };
    }
  };
}

function open(rate: number) {
  const { session, recordings } = desk(rate);
  const hashes = hashed(session);
  const serve = vi.fn(pcmServer(new Map([...recordings].map(([id, sides]) => [hashes.get(id)!, sides]))));
  vi.stubGlobal('fetch', serve);
  const buffer = ringBuffer();
  const ring = ringOver(buffer);
  send({ kind: 'open', document: encodeSession(session), kernel: module as unknown as WebAssembly.Module, buffer });
  /** The engine alone, from a position, with the same session or another state of it. */
  const offline = (from = 0, state = session) => {
    const engine = createEngine({
      module,
      session: decodeSession(encodeSession(state)),
      solo: true,
      pcm: (mediaId, channel, at, into) => {
        const samples = recordings.get(mediaId)![channel].subarray(Math.max(0, at), at + into.length);
        into.set(samples, Math.max(0, -at));
      }
    });
    engine.locate(from);
    return engine;
  };
  const rendered = (engine: ReturnType<typeof offline>, slots: number) => {
    const left = new Float32Array(slots * SLOT);
    engine.render(left, new Float32Array(slots * SLOT));
    return left;
  };
  const change = (command: Command) => {
    const planned = planBatch(session, [command]);
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
    send({ kind: 'changes', changes: planned.value.changes });
    return planned.value.changes;
  };
  return { session, ring, serve, offline, rendered, change, plays: device(ring, rate) };
}

/** From `play` until the first slot is there. */
async function begun(ring: Ring): Promise<void> {
  for (let i = 0; i < 200 && ring.control[CELL.write] === ring.control[CELL.start]; i++) await settle();
}

describe.each([44_100, 48_000, 96_000, 192_000])('at %i Hz', (rate) => {
  it('plays what the engine renders, keeps as much ready as it says and no more, and misses nothing', async () => {
    const { ring, plays, offline, rendered } = open(rate);
    send({ kind: 'play', from: 0 });
    await begun(ring);
    const slots = Math.ceil((0.5 * rate) / SLOT);
    const { left, positions } = await plays.take(slots);
    expect(plays.missed()).toBe(0);
    expect(left).toEqual(rendered(offline(), slots));
    expect(positions).toEqual(Array.from({ length: slots }, (_, i) => i * SLOT));
    expect(plays.most()).toBeLessThanOrEqual(slotsIn(96, rate));
    expect(plays.most()).toBeGreaterThan(slotsIn(96, rate) - 4);
    expect(ring.control[CELL.playing]).toBe(1);
    expect(said.map(({ kind }) => kind)).toEqual(['order']);
  });

  it('lets a move be heard soon, exactly as one made there and then', async () => {
    const { ring, plays, offline, rendered, change } = open(rate);
    const reference = offline();
    send({ kind: 'play', from: 0 });
    await begun(ring);
    const first = Math.ceil((0.3 * rate) / SLOT);
    await plays.take(first);
    rendered(reference, first);
    const changes = change({ do: 'faders.set', levels: [{ id: 'a', level: -20 }] });
    const after = Math.ceil((0.4 * rate) / SLOT);
    const { left } = await plays.take(after);
    expect(plays.missed()).toBe(0);
    // Where it began: the slot that the worker tells, within two hundredths of a second of the play position.
    const at = ring.control[CELL.turned] - ring.control[CELL.start];
    expect((at - first) * SLOT).toBeLessThan(0.02 * rate);
    reference.schedule(at * SLOT, changes);
    expect(left).toEqual(rendered(reference, after));
  });
});

describe('the mix worker', () => {
  it('loops, stops, and begins again elsewhere in a new epoch', async () => {
    const { ring, plays, offline, rendered } = open(48_000);
    const loop = { from: 24_000, to: 36_000 };
    send({ kind: 'loop', loop });
    send({ kind: 'play', from: 24_000 });
    await begun(ring);
    const reference = offline(24_000);
    reference.setLoop(loop);
    const { left, positions } = await plays.take(200);
    expect(left).toEqual(rendered(reference, 200));
    expect(positions.some((at, i) => i > 0 && at < positions[i - 1])).toBe(true);
    send({ kind: 'stop' });
    await settle();
    expect(ring.control[CELL.playing]).toBe(0);
    const epoch = ring.control[CELL.epoch];
    send({ kind: 'loop', loop: null });
    send({ kind: 'play', from: 96_000 });
    await begun(ring);
    expect(ring.control[CELL.epoch]).toBe(epoch + 1);
    const again = await plays.take(40);
    expect(again.positions[0]).toBe(96_000);
    expect(again.left).toEqual(rendered(offline(96_000), 40));
  });

  it('plays a version in the mix’s place from the next bar on, follows moves in it, and goes back, to the sample as if made there', async () => {
    const { session, ring, plays, offline, rendered, change } = open(48_000);
    change({ do: 'settings.set', bpm: 400, beatsPerBar: 1 });
    change({ do: 'stems.set', ids: ['bus'], on: true });
    change({ do: 'versions.add', id: 'v', name: 'V', stems: { bus: -9 }, channels: [{ id: 'a', mute: true }] } as Command);
    const reference = offline();
    /** What the reference plays from a slot on: the version, or the mix. */
    const turn = (slot: number, version: boolean, had: Session): Session => {
      const now = version ? inPlace(session, session.version.get('v')!) : { session, stems: new Map() };
      reference.setStems(now.stems);
      reference.schedule(slot * SLOT, differences(had, now.session));
      return fork(now.session);
    };
    send({ kind: 'play', from: 0 });
    await begun(ring);
    expect((await plays.take(20)).left).toEqual(rendered(reference, 20));
    send({ kind: 'hear', version: 'v', when: 'bar' });
    expect(said.at(-1)!.kind).toBe('order');
    // A bar is 7200 frames: it begins in slot 56.
    let had = turn(56, true, fork(session));
    expect((await plays.take(60)).left).toEqual(rendered(reference, 60));
    expect(said.at(-1)).toEqual({ kind: 'heard', version: 'v' });
    // One that is rendered already: a few slots before 112.5.
    await plays.take(25).then(({ left }) => expect(left).toEqual(rendered(reference, 25)));
    send({ kind: 'hear', version: null, when: 'bar' });
    had = turn(112, false, had);
    expect((await plays.take(35)).left).toEqual(rendered(reference, 35));
    send({ kind: 'hear', version: 'v', when: 'now' });
    /** What is played after a turn at once: where it began the worker tells. */
    const turned = async (slots: number, version: boolean) => {
      const { left } = await plays.take(slots);
      had = turn(ring.control[CELL.turned] - ring.control[CELL.start], version, had);
      expect(left).toEqual(rendered(reference, slots));
    };
    await turned(20, true);
    change({ do: 'faders.set', levels: [{ id: 'b', level: -6 }] });
    await turned(12, true);
    change({ do: 'versions.remove', ids: ['v'] });
    expect(said.at(-1)).toEqual({ kind: 'heard', version: null });
    await turned(30, false);
    expect(plays.missed()).toBe(0);
  });

  it('goes over to another shape without a gap, and to what it has to fetch first', async () => {
    const { ring, plays, change } = open(48_000);
    send({ kind: 'play', from: 0 });
    await begun(ring);
    await plays.take(60);
    change({ do: 'channels.route', ids: ['a'], to: 'mix' });
    change({ do: 'inserts.add', id: 'eq', channelId: 'a', type: 'eq' });
    change({ do: 'rests.set', ids: ['b'], on: true });
    const { left } = await plays.take(150);
    change({ do: 'rests.set', ids: ['b'], on: false });
    await plays.take(150);
    expect(plays.missed()).toBe(0);
    expect(left.some((x) => x !== 0)).toBe(true);
    // Meters follow the new order of things.
    const orders = said.filter((message) => message.kind === 'order');
    expect(orders.length).toBeGreaterThan(2);
    expect(orders.at(-1)!.ids).toContain('b');
  });

  it('says what is wrong where recordings cannot be read, and plays again once they can', async () => {
    const { ring, plays, serve } = open(48_000);
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('', { status: 500 })));
    send({ kind: 'play', from: 0 });
    await settle();
    expect(said).toEqual([{ kind: 'trouble', message: 'The recordings could not be read.' }]);
    expect(ring.control[CELL.playing]).toBe(0);
    vi.stubGlobal('fetch', serve);
    send({ kind: 'play', from: 0 });
    await begun(ring);
    await plays.take(20);
    expect(plays.missed()).toBe(0);
  });

  it('takes a drag over at most once in 20 ms, and its last move in any case', async () => {
    const { ring, plays, change, session } = open(48_000);
    send({ kind: 'play', from: 0 });
    await begun(ring);
    await plays.take(60);
    const before = ring.control[CELL.turns];
    for (let i = 1; i <= 30; i++) {
      change({ do: 'faders.set', levels: [{ id: 'mix', level: -i }] });
      await plays.take(1);
    }
    // Thirty slots are 80 ms.
    const turns = ring.control[CELL.turns] - before;
    expect(turns).toBeGreaterThanOrEqual(3);
    expect(turns).toBeLessThanOrEqual(6);
    change({ do: 'faders.set', levels: [{ id: 'mix', level: -Infinity }] });
    const { left } = await plays.take(120);
    expect(left.subarray(-SLOT * 40).every((x) => x === 0)).toBe(true);
    expect(session.channel.get('mix')!.faderDb).toBe(-Infinity);
    expect(plays.missed()).toBe(0);
  });
});

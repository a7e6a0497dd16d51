// Transport in the page: starts audio, talks to the mix worker, and reads position and meters from shared memory.
import type { Span } from '$core/engine/engine';
import type { Range } from '$core/session/entities';
import { endOf } from '$core/session/select';
import { dbOf } from '$core/units';
import kernelUrl from '../../../dist/kernel.wasm?url';
import MixWorker from '../workers/mix.ts?worker';
import workletUrl from '../workers/worklet.ts?worker&url';
import type { FromMixer, Listening, ToMixer } from '../workers/protocol';
import { CELL, ringBuffer, ringOver, SLOT, SLOTS, slotMeters, slotOf, slotReductions } from '../workers/ring';
import type { SessionStore } from './session.svelte';

/** What a meter shows, dBFS: the louder side's peak and RMS of the last moment. */
export type Level = { peak: number; rms: number; hold: number; held: number };
/** Why a page plays nothing: it came by plain HTTP from elsewhere, or without the headers that isolate it. */
export type Silence = 'plain' | 'headers';
export type Transport = ReturnType<typeof openTransport>;

/** Decibels a meter falls per second once the sound is gone. */
const FALL = 26;
const HOLD_MS = 1200;

/** Opens at once; the mix worker gets its kernel and its copy of the session when the page has been drawn. */
export function openTransport(store: SessionStore) {
  // Browsers share memory between threads, and run audio worklets, only in a page that is secure and isolated.
  const silent: Silence | null = !isSecureContext ? 'plain' : !crossOriginIsolated ? 'headers' : null;
  const buffer = silent ? null : ringBuffer();
  const ring = buffer && ringOver(buffer);
  const worker = new MixWorker();
  const { rate } = store.settings;
  const send = (message: ToMixer) => worker.postMessage(message);
  const levels = new Map<string, Level>();
  /** Gain reduction of inserts in dB, ≤ 0, falling back to 0 as meters do. */
  const reductions = new Map<string, number>();
  const orders = new Map<number, { readonly ids: readonly string[]; readonly inserts: readonly string[] }>();
  let playing = $state(false);
  let position = $state(0);
  let loop = $state.raw<Span | null>(null);
  let listening = $state.raw<Listening>({ to: { pair: 0 }, dim: false, mono: false, swap: false });
  /** The version of the mix that plays in its place, and the one that will from the next bar on. */
  let hearing = $state.raw<{ readonly version: string | null; readonly next?: string | null }>({ version: null });
  let starting: Promise<AudioWorkletNode> | null = null;
  let context: AudioContext | null = null;
  let drawnSlot = 0;
  let drawnAt = performance.now();

  let unlisten = () => {};
  const prepare = async (shared: SharedArrayBuffer) => {
    const kernel = await WebAssembly.compileStreaming(fetch(kernelUrl));
    await new Promise((resolve) => (window.requestIdleCallback ?? setTimeout)(resolve));
    send({ kind: 'open', document: store.document(), kernel, buffer: shared });
    unlisten = store.onChanges((changes) => send({ kind: 'changes', changes }));
  };
  const prepared = buffer && prepare(buffer);
  prepared?.catch((error: Error) => store.say(`Playback cannot start: ${error.message}`));
  worker.onmessage = ({ data }: MessageEvent<FromMixer>) => {
    if (data.kind === 'order') orders.set(data.serial, data);
    else if (data.kind === 'heard') hearing = { version: data.version };
    else {
      playing = false;
      store.say(`Playback stopped: ${data.message}`);
    }
  };

  const startAudio = async (): Promise<AudioWorkletNode> => {
    context = new AudioContext({ sampleRate: rate, latencyHint: 'interactive' });
    await context.audioWorklet.addModule(workletUrl);
    const node = new AudioWorkletNode(context, 'ring-player', { numberOfInputs: 0, outputChannelCount: [2], processorOptions: { buffer } });
    node.connect(context.destination);
    return node;
  };

  const playFrom = async (from: number) => {
    if (!ring) return void store.say('Nothing is played on this page. “No playback”, at the top, says why and what to do.');
    await prepared;
    starting ??= startAudio();
    await starting;
    await context!.resume();
    drawnSlot = Atomics.load(ring.control, CELL.write);
    send({ kind: 'play', from });
    playing = true;
    position = from;
  };

  const stop = () => {
    playing = false;
    send({ kind: 'stop' });
  };

  /** Reads what was played since the last frame; call once a frame. */
  const frame = () => {
    const now = performance.now();
    const fall = (FALL * (now - drawnAt)) / 1000;
    drawnAt = now;
    for (const level of levels.values()) {
      level.peak -= fall;
      level.rms -= fall;
      if (now > level.held) level.hold -= fall;
    }
    for (const [id, db] of reductions) if (db < 0) reductions.set(id, Math.min(0, db + fall));
    if (!ring || !playing) return;
    const read = Atomics.load(ring.control, CELL.read);
    if (read - drawnSlot > SLOTS / 2 || read < drawnSlot) drawnSlot = read - 1;
    for (; drawnSlot < read; drawnSlot++) takeSlot(slotOf(drawnSlot), now);
    if (read > 0 && Atomics.load(ring.control, CELL.start) < read) {
      position = ring.positions[slotOf(read - 1)];
      const end = endOf(store.session) + 3 * rate;
      if (!loop && position > end) stop();
    }
  };

  const rmsShare = 1 - Math.exp(-SLOT / rate / 0.0875);
  const takeSlot = (slot: number, now: number) => {
    const order = orders.get(ring!.orders[slot]);
    if (!order) return;
    const reduced = slotReductions(ring!, slot);
    order.inserts.forEach((id, i) => reductions.set(id, Math.min(reductions.get(id) ?? 0, reduced[i])));
    const cells = slotMeters(ring!, slot);
    order.ids.forEach((id, i) => {
      const peak = dbOf(Math.max(cells[i * 4], cells[i * 4 + 1]));
      const rms = dbOf(Math.sqrt(Math.max(cells[i * 4 + 2], cells[i * 4 + 3]) / SLOT));
      let level = levels.get(id);
      if (!level) levels.set(id, (level = { peak: -200, rms: -200, hold: -200, held: 0 }));
      level.peak = Math.max(level.peak, peak);
      // RMS over about 90 ms, from slot to slot.
      const before = 10 ** (level.rms / 10);
      level.rms = 10 * Math.log10(before + (10 ** (rms / 10) - before) * rmsShare + 1e-20);
      if (peak >= level.hold) Object.assign(level, { hold: peak, held: now + HOLD_MS });
    });
  };

  const setLoop = (next: Span | null) => {
    loop = next;
    send({ kind: 'loop', loop: next });
  };
  const turnLoop = (span: Span | null) => setLoop(span && (loop?.from !== span.from || loop.to !== span.to) ? span : null);

  return {
    /** Why nothing is played here, or null. */
    silent,
    get playing() {
      return playing;
    },
    get position() {
      return position;
    },
    get loop() {
      return loop;
    },
    /** What is listened to here: never a matter of the session, nor of what is printed. */
    get listening() {
      return listening;
    },
    listen: (fields: Partial<Listening>) => {
      listening = { ...listening, ...fields };
      send({ kind: 'listen', listening });
    },
    /** Which version is heard in the mix's place: never a matter of the session either. */
    get hearing() {
      return hearing;
    },
    /** Lets a version be heard, or with null the mix; with `bar` from the next bar on. */
    hear: (version: string | null, bar = false) => {
      hearing = bar && playing ? { version: hearing.version, next: version } : { version };
      send({ kind: 'hear', version, when: bar ? 'bar' : 'now' });
      // It is in the mix that it is heard.
      if (version !== null && !('pair' in listening.to && listening.to.pair === 0)) {
        listening = { ...listening, to: { pair: 0 } };
        send({ kind: 'listen', listening });
      }
    },
    rate,
    toggle: () => (playing ? stop() : playFrom(position)),
    stop,
    locate: (to: number) => {
      const from = Math.max(0, Math.round(to));
      if (playing) void playFrom(from);
      else position = from;
    },
    setLoop,
    /** Loops a span, or, where that is looped, no longer. */
    turnLoop,
    /** The same of a range of the session. */
    loopRange: ({ start, length }: Range) => turnLoop({ from: start, to: start + length }),
    loops: ({ start, length }: Range) => loop?.from === start && loop.to === start + length,
    frame,
    level: (id: string): Level | undefined => levels.get(id),
    /** Gain reduction of an insert now, dB ≤ 0. */
    reduction: (insertId: string): number => reductions.get(insertId) ?? 0,
    underruns: () => (ring ? Atomics.load(ring.control, CELL.underruns) : 0),
    /**
     * For measuring: how many ms pass from a move of a fader, or from a locate, until the audio thread has played the first block
     * with it; so often, while it plays.
     */
    probe: async (what: 'fader' | 'locate', times: number): Promise<number[]> => {
      const cell = (name: keyof typeof CELL) => Atomics.load(ring!.control, CELL[name]);
      /** Waits for a cell to change until something holds: timers would add milliseconds of their own. */
      const until = async (name: keyof typeof CELL, done: () => boolean) => {
        while (!done()) {
          if (cell('playing') === 0) throw new Error('It has stopped: nothing is played any more.');
          const waited = Atomics.waitAsync(ring!.control, CELL[name], cell(name), 20);
          if (waited.async) await waited.value;
        }
      };
      const track = [...store.session.channel.values()].find(({ kind }) => kind === 'track')!.id;
      const list: number[] = [];
      for (let i = 0; i < times; i++) {
        await new Promise((resolve) => setTimeout(resolve, 150 + (i % 7) * 11));
        const began = performance.now();
        if (what === 'fader') {
          const turns = cell('turns');
          store.act([{ do: 'faders.set', levels: [{ id: track, level: -20 + (i % 9) }] }]);
          await until('turns', () => cell('turns') !== turns);
          await until('read', () => cell('read') > cell('turned'));
        } else {
          const epoch = cell('epoch');
          void playFrom(rate * (1 + (i % 12)));
          await until('epoch', () => cell('epoch') !== epoch);
          await until('read', () => cell('read') > cell('start'));
        }
        list.push(performance.now() - began);
      }
      return list;
    },
    /** The next `frames` that the audio thread plays, as it plays them. For checking that what plays is what prints. */
    capture: async (frames: number): Promise<{ left: Float32Array; right: Float32Array }> => {
      const node = await (starting ??= startAudio());
      return new Promise((resolve) => {
        node.port.onmessage = ({ data }: MessageEvent<{ left: Float32Array; right: Float32Array }>) => resolve(data);
        node.port.postMessage({ capture: frames });
      });
    },
    close: () => {
      unlisten();
      worker.terminate();
      void context?.close();
    }
  };
}

// Recordings in the mix worker: short chunks, as many as are wanted fetched in one batch for all tracks, kept near where one plays.
import { BYTES, decode, type Encoding } from '$core/formats/pcm';
import type { Clip, Session } from '$core/session/entities';
import { clipsWithin } from '$core/session/timeline';
import type { Pcm, Span } from '$core/engine/engine';

/** Frames of a chunk. Short, so that a locate need not wait for what comes later. */
const CHUNK = 8192;
/** Chunks fetched in one request. */
const MOST_RUN = 8;
/** Samples kept before those go that were wanted longest ago: clips play from anywhere, near in time is not near in a recording. */
const MOST_SAMPLES = 100_000_000;
/** Looks for what is wanted in the course of which nothing that was is let go. */
const LATELY = 200;

const JSON_HEAD = { 'Content-Type': 'application/json' };

type Part = { sha256: string; channels: number; encoding: Encoding; bytes: number };
/** Recordings by media id; null where a recording has nothing in this chunk. */
type Chunk = Map<string, Float32Array[] | null>;

export type PcmCache = {
  /** Whether all that the spans need is here. */
  readonly ready: (session: Session, spans: readonly Span[]) => boolean;
  /** Fetches what the spans lack. */
  readonly load: (session: Session, spans: readonly Span[]) => Promise<void>;
  readonly read: Pcm;
};

/** Lets whatever else waits have its turn. Unlike a timer it costs no milliseconds. */
export const turn = (): Promise<void> =>
  new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });

/** Clips that sound somewhere in a span. */
function* playing(session: Session, from: number, to: number): Generator<Clip> {
  for (const { id, kind, resting } of session.channel.values())
    if ((kind === 'track' || kind === 'key') && !resting)
      for (const clip of clipsWithin(session, id, from, to)) if (!clip.muted) yield clip;
}

/** `most` samples are kept. */
export function createPcmCache(most = MOST_SAMPLES): PcmCache {
  const chunks = new Map<number, Chunk>();
  /** By chunk number, when it was wanted last, in looks. */
  const wanted = new Map<number, number>();
  let looks = 0;
  const fetching = new Map<string, Promise<void>>();

  /** Media ids lacking, by chunk number. */
  const lacking = (session: Session, spans: readonly Span[]): Map<number, string[]> => {
    const lists = new Map<number, Set<string>>();
    looks++;
    for (const { from, to } of spans)
      for (const clip of playing(session, from, to)) {
        const begin = Math.max(from, clip.start);
        const end = Math.min(to, clip.start + clip.length);
        const first = Math.floor((clip.offset + begin - clip.start) / CHUNK);
        const last = Math.floor((clip.offset + end - 1 - clip.start) / CHUNK);
        for (let number = first; number <= last; number++) {
          wanted.set(number, looks);
          if (!chunks.get(number)?.has(clip.mediaId)) lists.set(number, (lists.get(number) ?? new Set()).add(clip.mediaId));
        }
      }
    return new Map([...lists].map(([number, ids]) => [number, [...ids]]));
  };

  /** `count` chunks from `number` on, of the same recordings. */
  const fetchRun = async (session: Session, number: number, count: number, ids: readonly string[]): Promise<void> => {
    // Two recordings may be the same bytes.
    const shas = new Map<string, string[]>();
    for (const id of ids) {
      const { sha256 } = session.media.get(id)!;
      shas.set(sha256, [...(shas.get(sha256) ?? []), id]);
    }
    const asked = { media: [...shas.keys()], from: number * CHUNK, frames: count * CHUNK };
    const response = await fetch('/api/pcm', { method: 'POST', headers: JSON_HEAD, body: JSON.stringify(asked) });
    if (!response.ok) throw new Error('The recordings could not be read.');
    const bytes = new Uint8Array(await response.arrayBuffer());
    const headLength = new DataView(bytes.buffer).getUint32(0, true);
    const parts = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + headLength))) as Part[];
    const run: Chunk[] = Array.from({ length: count }, () => new Map(ids.map((id) => [id, null])));
    let at = 4 + headLength;
    for (const { sha256, channels, encoding, bytes: length } of parts) {
      const chunkBytes = CHUNK * BYTES[encoding];
      for (let part = 0; part * chunkBytes < length; part++) {
        const sides = Array.from({ length: channels }, (_, side) => {
          const samples = new Float32Array(CHUNK);
          const from = at + side * length;
          decode(bytes.subarray(from + part * chunkBytes, from + Math.min(length, (part + 1) * chunkBytes)), encoding, samples);
          return samples;
        });
        for (const id of shas.get(sha256)!) run[part].set(id, sides);
      }
      at += channels * length;
      await turn();
    }
    // Only whole: a chunk that is half decoded must not look ready.
    run.forEach((chunk, i) => chunks.set(number + i, new Map([...(chunks.get(number + i) ?? []), ...chunk])));
    evict();
  };

  const evict = () => {
    const size = (chunk: Chunk) => [...chunk.values()].reduce((sum, sides) => sum + (sides?.length ?? 0) * CHUNK, 0);
    let total = [...chunks.values()].reduce((sum, chunk) => sum + size(chunk), 0);
    if (total <= most) return;
    const oldest = [...chunks.keys()].sort((a, b) => wanted.get(a)! - wanted.get(b)!);
    for (const number of oldest) {
      if (total <= most || looks - wanted.get(number)! < LATELY) return;
      total -= size(chunks.get(number)!);
      chunks.delete(number);
      wanted.delete(number);
    }
  };

  return {
    ready: (session, spans) => lacking(session, spans).size === 0,
    load: async (session, spans) => {
      const waits: Promise<void>[] = [];
      const runs: { readonly number: number; readonly ids: readonly string[]; readonly keys: string[] }[] = [];
      for (const [number, ids] of [...lacking(session, spans)].sort(([a], [b]) => a - b)) {
        const key = `${number} ${ids.join()}`;
        const under = fetching.get(key);
        const run = runs.at(-1);
        const follows = run && run.keys.length < MOST_RUN && run.number + run.keys.length === number && run.ids.join() === ids.join();
        if (under) waits.push(under);
        else if (follows) run.keys.push(key);
        else runs.push({ number, ids, keys: [key] });
      }
      for (const { number, ids, keys } of runs) {
        const fetched = fetchRun(session, number, keys.length, ids).finally(() => keys.forEach((key) => fetching.delete(key)));
        for (const key of keys) fetching.set(key, fetched);
        waits.push(fetched);
      }
      await Promise.all(waits);
    },
    read: (mediaId, channel, from, into) => {
      for (let at = 0; at < into.length;) {
        const number = Math.floor((from + at) / CHUNK);
        const offset = from + at - number * CHUNK;
        const count = Math.min(into.length - at, CHUNK - offset);
        const samples = chunks.get(number)?.get(mediaId)?.[channel];
        if (samples) into.set(samples.subarray(offset, offset + count), at);
        at += count;
      }
    }
  };
}

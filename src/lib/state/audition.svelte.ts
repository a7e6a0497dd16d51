// Hearing one recording from a place on: beside the mix, without touching mutes, solos or the mix itself.
import { clipsInTime } from '$core/session/timeline';
import { decode } from '$core/formats/pcm';
import type { Clip } from '$core/session/entities';
import { gainOf } from '$core/units';
import { playPieces } from './pieces';
import type { SessionStore } from './session.svelte';
import type { Transport } from './transport.svelte';

type Part = { readonly sha256: string; readonly channels: number; readonly encoding: Parameters<typeof decode>[1]; readonly bytes: number };
export type Audition = ReturnType<typeof createAudition>;

export function createAudition(store: SessionStore, transport: () => Transport | undefined) {
  let id = $state<string | null>(null);
  /** Seconds into the recording. */
  let at = $state(0);
  let context: AudioContext | null = null;
  let serial = 0;

  const stop = () => {
    serial++;
    id = null;
    const old = context;
    context = null;
    void old?.close();
  };

  const piece = async (sha256: string, from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> => {
    const response = await fetch(`/api/pcm?from=${from}&frames=${frames}&media=${sha256}`);
    if (!response.ok) throw new Error('The recording could not be read.');
    const bytes = new Uint8Array(await response.arrayBuffer());
    const head = new DataView(bytes.buffer).getUint32(0, true);
    const [part] = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + head))) as Part[];
    if (!part) return [];
    return Array.from({ length: part.channels }, (_, side) => {
      const samples = new Float32Array(frames);
      decode(bytes.subarray(4 + head + side * part.bytes, 4 + head + (side + 1) * part.bytes), part.encoding, samples);
      return samples;
    });
  };

  /** The audio channels of the recording that a clip gives its track. */
  const sidesOf = (clip: Clip, width: 1 | 2) => (clip.side === 'both' && width === 2 ? [clip.channel, clip.channel + 1] : [clip.channel]);

  /** Plays a track's first recording from `seconds` on; again on the same track stops it. */
  const play = async (channelId: string, seconds: number) => {
    stop();
    const mine = ++serial;
    const channel = store.session.channel.get(channelId);
    const [clip] = clipsInTime(store.session, channelId);
    const media = clip && store.session.media.get(clip.mediaId);
    if (!channel || !clip || !media) return store.say('This track has no recording to play.');
    if (transport()?.playing) void transport()?.toggle();
    const own = (context = new AudioContext({ sampleRate: media.rate }));
    const gain = new GainNode(own, { gain: gainOf(channel.trimDb) * (channel.polarity ? -1 : 1) });
    gain.connect(own.destination);
    id = channelId;
    at = seconds;
    const last = Math.min(media.frames, clip.offset + clip.length);
    let began: number | null = null;
    const follow = () => {
      if (mine !== serial) return;
      if (began !== null) at = seconds + Math.max(0, own.currentTime - began);
      if (began !== null && at * media.rate >= last) return stop();
      requestAnimationFrame(follow);
    };
    follow();
    const sides = sidesOf(clip, channel.width);
    try {
      await playPieces({
        context: own,
        sources: [
          {
            piece: async (from, frames) => {
              const samples = await piece(media.sha256, from, frames);
              return sides.flatMap((side) => samples[side] ?? []);
            },
            out: gain
          }
        ],
        rate: media.rate,
        from: Math.round(seconds * media.rate),
        to: last,
        wanted: () => mine === serial,
        began: (when) => (began = when)
      });
    } catch (error) {
      if (mine !== serial) return;
      stop();
      store.say(error instanceof Error ? error.message : String(error));
    }
  };

  return {
    play,
    stop,
    get id() {
      return id;
    },
    get at() {
      return at;
    }
  };
}

// Hearing one track by itself, a recording from a place on or stretches of its timeline: beside the mix, without touching mutes, solos or the mix itself.
import { amplitudeAt } from '$core/clips/curves';
import { clipEnd, sidesOf } from '$core/session/joints';
import { clipsInTime } from '$core/session/timeline';
import type { Clip } from '$core/session/entities';
import { gainOf } from '$core/units';
import { playPieces } from './pieces';
import { fetchSamples } from './samples';
import type { SessionStore } from './session.svelte';
import type { Transport } from './transport.svelte';

export type Audition = ReturnType<typeof createAudition>;

export function createAudition(store: SessionStore, transport: () => Transport | undefined) {
  let id = $state<string | null>(null);
  let heard = $state<string | null>(null);
  /** Seconds into the recording. */
  let at = $state(0);
  let context: AudioContext | null = null;
  let serial = 0;

  const stop = () => {
    serial++;
    id = heard = null;
    const old = context;
    context = null;
    void old?.close();
  };

  /** The audio channels of the recording that a clip gives its track. */
  const channelsOf = (clip: Clip, width: 1 | 2) =>
    clip.side === 'both' && width === 2 ? [clip.channel, clip.channel + 1] : [clip.channel];

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
    const sides = channelsOf(clip, channel.width);
    try {
      await playPieces({
        context: own,
        sources: [
          {
            piece: async (from, frames) => {
              const samples = await fetchSamples(media.sha256, from, frames);
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

  /** Samples of what a track's clips play at timeline frames, at their gains and fades. */
  const played = async (clips: readonly Clip[], width: 1 | 2, from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> => {
    const out = Array.from({ length: width }, () => new Float32Array(frames));
    for (const [i, clip] of clips.entries()) {
      const media = store.session.media.get(clip.mediaId);
      const [begin, end] = [Math.max(from, clip.start), Math.min(from + frames, clipEnd(clip))];
      if (!media || clip.muted || begin >= end) continue;
      const samples = await fetchSamples(media.sha256, clip.offset + begin - clip.start, end - begin);
      for (const side of sidesOf(clip)) {
        const own = samples[clip.channel + (clip.side === 'both' ? side : 0)];
        const into = out[side];
        if (own && into) for (let n = begin; n < end; n++) into[n - from] += own[n - begin] * amplitudeAt(clip, n, clips[i + 1]);
      }
    }
    return out;
  };
  /** Plays stretches of a track's timeline one after another, by themselves; `name` says which is heard. Again it stops. */
  const hear = async (channelId: string, spans: readonly { readonly from: number; readonly to: number }[], name: string) => {
    const again = heard === name;
    stop();
    if (again || !spans.length) return;
    const mine = ++serial;
    const channel = store.session.channel.get(channelId);
    if (!channel) return;
    const clips = clipsInTime(store.session, channelId);
    if (transport()?.playing) void transport()?.toggle();
    const { rate } = store.settings;
    const own = (context = new AudioContext({ sampleRate: rate }));
    const gain = new GainNode(own, { gain: gainOf(channel.trimDb) });
    gain.connect(own.destination);
    heard = name;
    const total = spans.reduce((sum, { from, to }) => sum + to - from, 0);
    const piece = async (from: number, frames: number) => {
      const out = Array.from({ length: channel.width }, () => new Float32Array(frames));
      let at = 0;
      for (const span of spans) {
        const [begin, end] = [Math.max(from, at), Math.min(from + frames, at + span.to - span.from)];
        if (begin < end) {
          const sides = await played(clips, channel.width, span.from + begin - at, end - begin);
          sides.forEach((samples, side) => out[side].set(samples, begin - from));
        }
        at += span.to - span.from;
      }
      return out;
    };
    try {
      let began = 0;
      const wanted = () => mine === serial;
      await playPieces({
        context: own,
        sources: [{ piece, out: gain }],
        rate,
        from: 0,
        to: total,
        wanted,
        began: (when) => (began = when)
      });
      while (wanted() && own.currentTime < began + total / rate) await new Promise((resolve) => setTimeout(resolve, 50));
      if (wanted()) stop();
    } catch (error) {
      if (mine !== serial) return;
      stop();
      store.say(error instanceof Error ? error.message : String(error));
    }
  };

  return {
    play,
    hear,
    stop,
    /** The name of what `hear` plays. */
    get heard() {
      return heard;
    },
    get id() {
      return id;
    },
    get at() {
      return at;
    }
  };
}

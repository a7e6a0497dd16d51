// Hearing printed files in place: one, or two of them in step, of which one is heard at a time, the louder turned down to the other.
import { BYTES, decodeAll } from '$core/formats/pcm';
import type { WavInfo } from '$core/formats/wav';
import { gainOf } from '$core/units';
import { playPieces } from './pieces';

/** What is played: where its bytes are, and how they are coded; `wav` null is a file that the browser decodes as a whole. */
export type Reel = {
  readonly src: string;
  readonly rate: number;
  readonly frames: number;
  readonly channels: number;
  readonly wav: Pick<WavInfo, 'dataAt' | 'encoding'> | null;
  /** dB, for equal loudness. */
  readonly gainDb: number;
};
/** Longer than this a file that is decoded as a whole takes too much memory: 20 minutes of two sides are 460 MB. */
const MOST_WHOLE_S = 1200;
/** A switch takes so long, s: short enough to be one, long enough not to click. */
const SWITCH_S = 0.008;

export type Tape = ReturnType<typeof createTape>;
/** The one that plays: another that begins stops it. */
let current: { readonly stop: () => void } | null = null;
export const stopTapes = () => current?.stop();

/** `onplay` is called as it begins, so that whatever else plays can stop; `onfail` says what went wrong. */
export function createTape(reels: () => readonly Reel[], onplay: () => void, onfail: (text: string) => void) {
  let playing = $state(false);
  /** Seconds. */
  let at = $state(0);
  let heard = $state(0);
  let context: AudioContext | null = null;
  let gains: GainNode[] = [];
  let serial = 0;
  const length = () => Math.max(...reels().map(({ frames, rate }) => frames / rate), 0);
  const level = (i: number) => (i === heard ? gainOf(reels()[i]?.gainDb ?? 0) : 0);

  const stop = () => {
    serial++;
    playing = false;
    const old = context;
    context = null;
    gains = [];
    if (current === tape) current = null;
    void old?.close();
  };

  const play = async (from = at) => {
    stop();
    current?.stop();
    current = tape;
    onplay();
    const mine = ++serial;
    const list = reels();
    const { rate } = list[0];
    const whole = list.find(({ wav, frames }) => wav === null && frames / rate > MOST_WHOLE_S);
    if (whole) return onfail('A FLAC file of more than 20 minutes is not played here: download it, or print WAV.');
    const own = (context = new AudioContext({ sampleRate: rate }));
    gains = list.map((_, i) => {
      const gain = new GainNode(own, { gain: level(i) });
      gain.connect(own.destination);
      return gain;
    });
    playing = true;
    at = from >= length() ? 0 : from;
    const start = at;
    let began: number | null = null;
    const follow = () => {
      if (mine !== serial) return;
      if (began !== null) at = Math.min(length(), start + Math.max(0, own.currentTime - began));
      if (began !== null && at >= length()) {
        stop();
        at = 0;
        return;
      }
      requestAnimationFrame(follow);
    };
    follow();
    try {
      await playPieces({
        context: own,
        sources: list.map((reel, i) => ({ piece: pieceOf(reel, own), out: gains[i] })),
        rate,
        from: Math.round(start * rate),
        to: Math.max(...list.map(({ frames }) => frames)),
        wanted: () => mine === serial,
        began: (when) => (began = when)
      });
    } catch (error) {
      if (mine !== serial) return;
      stop();
      onfail(error instanceof Error ? error.message : String(error));
    }
  };

  const tape = {
    get playing() {
      return playing;
    },
    get at() {
      return at;
    },
    /** Which of them is heard. */
    get heard() {
      return heard;
    },
    length,
    play,
    stop,
    toggle: () => (playing ? stop() : void play()),
    seek: (seconds: number) => {
      at = Math.max(0, Math.min(length(), seconds));
      if (playing) void play(at);
    },
    /** Without a gap, where it is. */
    hear: (i: number) => {
      heard = i;
      if (!context) return;
      const now = context.currentTime;
      for (const [n, gain] of gains.entries()) {
        gain.gain.setValueAtTime(gain.gain.value, now);
        gain.gain.linearRampToValueAtTime(level(n), now + SWITCH_S);
      }
    }
  };
  return tape;
}

function pieceOf({ src, channels, frames, wav }: Reel, context: AudioContext) {
  const gone = () => new Error('The file could not be read. It may have been deleted.');
  if (wav) {
    const size = BYTES[wav.encoding] * channels;
    return async (from: number, count: number): Promise<Float32Array<ArrayBuffer>[]> => {
      const wanted = Math.max(0, Math.min(count, frames - from));
      if (wanted === 0) return [];
      const first = wav.dataAt + from * size;
      const response = await fetch(src, { headers: { Range: `bytes=${first}-${first + wanted * size - 1}` } });
      if (!response.ok) throw gone();
      return decodeAll(new Uint8Array(await response.arrayBuffer()), wav.encoding, channels) as Float32Array<ArrayBuffer>[];
    };
  }
  let whole: Promise<AudioBuffer> | null = null;
  return async (from: number, count: number): Promise<Float32Array<ArrayBuffer>[]> => {
    whole ??= fetch(src).then(async (response) => {
      if (!response.ok) throw gone();
      return context.decodeAudioData(await response.arrayBuffer());
    });
    const buffer = await whole;
    return Array.from({ length: buffer.numberOfChannels }, (_, side) => buffer.getChannelData(side).slice(from, from + count));
  };
}

// What a track plays on one side, as stretches of recordings in the order of time: pieces that sound as one are one, fades and crossings
// are worked out, and what sounds at a frame is found by halving.
import type { Clip, Curve } from '../session/entities.ts';
import { asOne, byTime, clipEnd, crosses, goesOn, inStep, sidesOf } from '../session/joints.ts';
import { firstAfter } from '../session/timeline.ts';
import type { Frames } from '../units.ts';
import type { Kernel } from '../kernel/kernel.ts';
import type { Pcm } from './engine.ts';
import { rising } from './mixFade.ts';

export type Stretch = {
  readonly start: Frames;
  readonly end: Frames;
  readonly mediaId: string;
  /** The recording's audio channel. */
  readonly channel: number;
  /** Frame of the recording that is heard at a timeline frame, less that frame. */
  readonly shift: Frames;
  readonly gain: number;
  /** The gain of the piece before, which it goes on from, and over how many frames it glides from there. */
  readonly from: number;
  readonly glide: Frames;
  readonly fadeIn: Frames;
  readonly inCurve: Curve;
  readonly fadeOut: Frames;
  /** Of a crossing the other's curve. */
  readonly outCurve: Curve;
  /** Where it crosses into the next: what of both adds up to one. */
  readonly whole: 'amplitude' | 'power' | null;
};

/** The stretches of one side, 0 left or 1 right, of a track with these clips; `edge` is over how many frames gains glide where pieces meet. */
export function stretchesOf(clips: readonly Clip[], side: 0 | 1, edge: Frames, kernel: Kernel): Stretch[] {
  const loudness = ({ muted, gainDb }: Clip): number => (muted ? 0 : kernel.gainOf(gainDb));
  const own = clips.filter((clip) => sidesOf(clip).includes(side)).sort(byTime);
  const found: Stretch[] = [];
  for (const [i, clip] of own.entries()) {
    if (clip.muted) continue;
    const [before, next] = [own[i - 1] as Clip | undefined, own[i + 1] as Clip | undefined];
    const last = { end: clipEnd(clip), ...endOf(clip, next, edge) };
    if (before && asOne(before, clip)) {
      found.push({ ...found.pop()!, ...last });
      continue;
    }
    const gain = loudness(clip);
    const from = before && goesOn(before, clip) ? loudness(before) : gain;
    found.push({
      start: clip.start,
      mediaId: clip.mediaId,
      channel: clip.side === 'both' ? clip.channel + side : clip.channel,
      shift: clip.offset - clip.start,
      gain,
      glide: from === gain ? 0 : Math.min(edge, clip.length),
      from,
      fadeIn: clip.fadeIn,
      inCurve: clip.fadeInCurve,
      ...last
    });
  }
  return found;
}

/** How a clip ends before the next one of its side. */
function endOf(clip: Clip, next: Clip | undefined, edge: Frames): Pick<Stretch, 'fadeOut' | 'outCurve' | 'whole'> {
  if (next && !next.muted && crosses(clip, next))
    return { fadeOut: clip.fadeOut, outCurve: next.fadeInCurve, whole: inStep(clip, next) ? 'amplitude' : 'power' };
  // A muted piece is silent from its first frame on.
  if (next?.muted && goesOn(clip, next)) return { fadeOut: Math.min(edge, clip.length - clip.fadeIn), outCurve: 'linear', whole: null };
  return { fadeOut: clip.fadeOut, outCurve: clip.fadeOutCurve, whole: null };
}

/** Amplitude of a stretch's fade-out at a place of it, 0 … 1. */
function falling({ outCurve, whole }: Stretch, place: number, kernel: Kernel): number {
  if (whole === null) return rising(outCurve, 1 - place, kernel);
  const other = rising(outCurve, place, kernel);
  return whole === 'amplitude' ? 1 - other : Math.sqrt(Math.max(0, 1 - other * other));
}

/** Brings samples, which begin at timeline frame `from`, to a stretch's gain and fades. */
function shape(stretch: Stretch, from: Frames, samples: Float32Array, kernel: Kernel): void {
  const { start, end, gain, fadeIn, inCurve, fadeOut, glide } = stretch;
  const glides = Math.max(0, Math.min(samples.length, start + glide - from));
  for (let i = 0; i < glides; i++) samples[i] *= stretch.from + ((gain - stretch.from) * (from + i - start)) / glide;
  if (gain !== 1) for (let i = glides; i < samples.length; i++) samples[i] *= gain;
  const rises = Math.min(samples.length, start + fadeIn - from);
  for (let i = 0; i < rises; i++) samples[i] *= rising(inCurve, (from + i - start) / fadeIn, kernel);
  const falls = end - fadeOut;
  for (let i = Math.max(0, falls - from); i < samples.length; i++) samples[i] *= falling(stretch, (from + i - falls) / fadeOut, kernel);
}

let scratch = new Float32Array(0);

/** Writes what sounds from timeline frame `from` on into `into`, which is all zero. */
export function readStretches(stretches: readonly Stretch[], from: Frames, into: Float32Array, pcm: Pcm, kernel: Kernel): void {
  const to = from + into.length;
  let sounded = from;
  for (let i = firstAfter(stretches, from, ({ end }) => end); i < stretches.length && stretches[i].start < to; i++) {
    const stretch = stretches[i];
    const begin = Math.max(stretch.start, from);
    const end = Math.min(stretch.end, to);
    const own = begin === from && end === to ? into : into.subarray(begin - from, end - from);
    // Where the one before still sounds it is added to that.
    const crossed = begin < sounded;
    if (crossed && scratch.length < own.length) scratch = new Float32Array(own.length);
    const piece = crossed ? scratch.subarray(0, own.length).fill(0) : own;
    pcm(stretch.mediaId, stretch.channel, begin + stretch.shift, piece);
    shape(stretch, begin, piece, kernel);
    if (crossed) for (let n = 0; n < own.length; n++) own[n] += piece[n];
    sounded = end;
  }
}

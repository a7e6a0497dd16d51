// What a track plays on one side, as stretches of recordings in the order of time: pieces that sound as one are one, fades and crossings
// are worked out, and what sounds at a frame is found by halving.
import type { Clip, Curve } from '../session/entities.ts';
import { asOne, byTime, clipEnd, crosses, goesOn, inStep } from '../session/joints.ts';
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
  // Most have none: the kernel need not be asked.
  const loudness = ({ muted, gainDb }: Clip): number => (muted ? 0 : gainDb === 0 ? 1 : kernel.gainOf(gainDb));
  const own = clips.filter((clip) => clip.side === 'both' || (clip.side === 'left') === (side === 0)).sort(byTime);
  const found: Stretch[] = [];
  for (let i = 0; i < own.length; i++) {
    const clip = own[i];
    if (clip.muted) continue;
    const [before, next] = [own[i - 1] as Clip | undefined, own[i + 1] as Clip | undefined];
    const { fadeOut, outCurve, whole } = ending(clip, next, edge);
    const end = clipEnd(clip);
    if (before && asOne(before, clip)) {
      found.push({ ...found.pop()!, end, fadeOut, outCurve, whole });
      continue;
    }
    const gain = loudness(clip);
    const from = before && goesOn(before, clip) ? loudness(before) : gain;
    found.push({
      start: clip.start,
      end,
      mediaId: clip.mediaId,
      channel: clip.side === 'both' ? clip.channel + side : clip.channel,
      shift: clip.offset - clip.start,
      gain,
      glide: from === gain ? 0 : Math.min(edge, clip.length),
      from,
      fadeIn: clip.fadeIn,
      inCurve: clip.fadeInCurve,
      fadeOut,
      outCurve,
      whole
    });
  }
  return found;
}

/** How a clip ends before the next one of its side. */
function ending(clip: Clip, next: Clip | undefined, edge: Frames): Pick<Stretch, 'fadeOut' | 'outCurve' | 'whole'> {
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

/** Brings samples, which begin at timeline frame `from`, to a stretch's gain and fades; `address` is where they lie in the kernel, if there. */
function shape(stretch: Stretch, from: Frames, samples: Float32Array, address: number | null, kernel: Kernel): void {
  const { start, end, gain, fadeIn, fadeOut, glide } = stretch;
  const count = samples.length;
  const glides = Math.max(0, Math.min(count, start + glide - from));
  for (let i = 0; i < glides; i++) samples[i] *= stretch.from + ((gain - stretch.from) * (from + i - start)) / glide;
  if (gain !== 1) {
    // The kernel's multiplication is of 32-bit numbers, four at a time: the same bits, sooner.
    const rounded = Math.fround(gain);
    if (address !== null) kernel.scale(address + glides * 4, count - glides, rounded);
    else for (let i = glides; i < count; i++) samples[i] *= rounded;
  }
  if (from < start + fadeIn) rise(stretch, from, samples, kernel);
  if (from + count > end - fadeOut) fall(stretch, from, samples, kernel);
}

function rise({ start, fadeIn, inCurve }: Stretch, from: Frames, samples: Float32Array, kernel: Kernel): void {
  const count = Math.min(samples.length, start + fadeIn - from);
  const begun = from - start;
  if (inCurve === 'linear') for (let i = 0; i < count; i++) samples[i] *= (begun + i) / fadeIn;
  else for (let i = 0; i < count; i++) samples[i] *= rising(inCurve, (begun + i) / fadeIn, kernel);
}

function fall(stretch: Stretch, from: Frames, samples: Float32Array, kernel: Kernel): void {
  const { end, fadeOut, outCurve, whole } = stretch;
  const first = Math.max(0, end - fadeOut - from);
  const begun = from - (end - fadeOut);
  const count = samples.length;
  if (outCurve === 'linear' && whole !== 'power') for (let i = first; i < count; i++) samples[i] *= 1 - (begun + i) / fadeOut;
  else for (let i = first; i < count; i++) samples[i] *= falling(stretch, (begun + i) / fadeOut, kernel);
}

const endOf = ({ end }: Stretch): Frames => end;
let scratch = new Float32Array(0);

/**
 * What reads stretches from timeline frame `from` on into `into`, which is all zero; it goes on where it left off, and finds any other
 * place by halving. `address` is where `into` lies in the kernel's memory, or null.
 */
export function stretchReader(stretches: readonly Stretch[], kernel: Kernel) {
  /** The first stretch that ends after what was read last. */
  let next = 0;
  const firstAt = (from: Frames): number => {
    const here = (next === 0 || stretches[next - 1].end <= from) && (next === stretches.length || stretches[next].end > from);
    return here ? next : firstAfter(stretches, from, endOf);
  };
  return (from: Frames, into: Float32Array, address: number | null, pcm: Pcm): void => {
    const to = from + into.length;
    let sounded = from;
    next = firstAt(from);
    for (let i = next; i < stretches.length && stretches[i].start < to; i++) {
      const stretch = stretches[i];
      const begin = Math.max(stretch.start, from);
      const end = Math.min(stretch.end, to);
      const own = begin === from && end === to ? into : into.subarray(begin - from, end - from);
      // Where the one before still sounds it is added to that.
      const crossed = begin < sounded;
      if (crossed && scratch.length < own.length) scratch = new Float32Array(own.length);
      const piece = crossed ? scratch.subarray(0, own.length).fill(0) : own;
      pcm(stretch.mediaId, stretch.channel, begin + stretch.shift, piece);
      shape(stretch, begin, piece, crossed || address === null ? null : address + (begin - from) * 4, kernel);
      if (crossed) for (let n = 0; n < own.length; n++) own[n] += piece[n];
      sounded = end;
      if (stretch.end <= to) next = i + 1;
    }
  };
}

// Draws a row of the Timeline on its canvas: grid, clips with their picture at their gain and fades, what is proposed and selected.
import { amplitudeAt, fadeAt } from '$core/clips/curves';
import { PEAK_BIN, type Peaks } from '$core/measure/peaks';
import type { Clip, Media } from '$core/session/entities';
import { clipEnd } from '$core/session/joints';
import { firstAfter } from '$core/session/timeline';
import type { SampleBlocks } from '$lib/state/samples';
import type { Paints } from './canvas';
import { extremes, levelFor, reach } from './picture';
import { box, column, pixelOf, pixelsOf, type Pixels } from './pixels';

export type Window = { readonly from: number; readonly perPixel: number; readonly width: number; readonly height: number };
/** Amplitudes along the timeline, each for so many frames. */
export type Sum = { readonly levels: Float32Array; readonly step: number };
export type Picture = Window & {
  readonly clips: readonly Clip[];
  readonly selected: ReadonlySet<string>;
  /** Frames of lines of the grid, and of its stronger ones. */
  readonly grid: readonly number[];
  readonly mediaOf: (id: string) => Media | undefined;
  readonly peaksOf: (sha256: string) => Peaks | null;
  readonly samples: SampleBlocks;
  readonly paints: Paints;
  /** Stretches that are proposed to be cut: hatched where they are chosen, framed otherwise. */
  readonly proposals: readonly { readonly from: number; readonly to: number; readonly chosen: boolean }[];
  /** Of a bus, what flows into it. */
  readonly sum: Sum | null;
  /** Device pixels a pixel. */
  readonly scale: number;
  /** A selected range of time. */
  readonly range: { readonly from: number; readonly to: number } | null;
};

/** Closer than this, in frames a pixel, samples are drawn rather than peaks. */
const CLOSE = PEAK_BIN / 4;
/** Closer than this each sample is a point of its own. */
const POINTS = 1 / 6;

export function paintRow(canvas: HTMLCanvasElement, picture: Picture): void {
  const { from, perPixel, width, height, clips, paints, grid, proposals, range, scale, sum } = picture;
  const pixels = pixelsOf(canvas);
  const x = (frame: number) => (frame - from) / perPixel;
  const line = pixelOf(paints.line);
  for (const frame of grid) box(pixels, x(frame) * scale, 0, x(frame) * scale + 1, pixels.height, line);
  const to = from + width * perPixel;
  // Clips of one side alone may end out of order: few tracks have them, and then all are looked at.
  const sided = clips.some(({ side }) => side !== 'both');
  const shown: [Clip, Clip | undefined][] = [];
  for (let i = sided ? 0 : firstAfter(clips, from, clipEnd); i < clips.length && clips[i].start < to; i++)
    if (clipEnd(clips[i]) > from) shown.push([clips[i], clips.slice(i + 1, i + 3).find(({ side }) => side === clips[i].side)]);
  for (const [clip, next] of shown) soundOf(pixels, picture, clip, next);
  if (sum) sumColumns(pixels, picture, sum);
  const pen = canvas.getContext('2d')!;
  pen.setTransform(scale, 0, 0, scale, 0, 0);
  pen.putImageData(pixels.image, 0, 0);
  for (const [clip, next] of shown) linesOf(pen, picture, clip, next);
  for (const { from: begin, to: end, chosen } of proposals)
    if (end > from && begin < to) paintProposal(pen, picture, x(begin), x(end), chosen);
  if (range) {
    pen.fillStyle = paints.kelp;
    pen.globalAlpha = 0.16;
    pen.fillRect(x(range.from), 0, Math.max(1, x(range.to) - x(range.from)), height);
    pen.globalAlpha = 1;
    for (const frame of [range.from, range.to]) pen.fillRect(x(frame) - 0.75, 0, 1.5, height);
  }
}

/** What flows into a bus: an amplitude for every so many frames. */
function sumColumns(pixels: Pixels, { from, perPixel, scale, paints }: Picture, { levels, step }: Sum): void {
  const pixel = pixelOf(paints.family, 0.75);
  const middle = pixels.height / 2;
  for (let x = 0; x < pixels.width; x++) {
    const half = reach(levels[Math.floor((from + (x / scale) * perPixel) / step)] ?? 0) * (middle - 4 * scale);
    if (half > 0.25) column(pixels, x, Math.round(middle - half), Math.round(middle + half) + 1, pixel);
  }
}

/** Top and height of a clip in its row: of one side alone, its half. */
export function placeOf({ side }: Clip, height: number): { readonly top: number; readonly tall: number } {
  const [top, tall] = [3, height - 6];
  return side === 'both' ? { top, tall } : { top: side === 'left' ? top : top + tall / 2, tall: tall / 2 };
}

/** A clip's ground and its sound, pixel by pixel. */
function soundOf(pixels: Pixels, picture: Picture, clip: Clip, next: Clip | undefined): void {
  const { from, perPixel, height, scale, paints, mediaOf, samples, peaksOf } = picture;
  const { top, tall } = placeOf(clip, height);
  const colour = clip.muted ? paints.muted : paints.family;
  const [left, right] = [(clip.start - from) / perPixel, (clipEnd(clip) - from) / perPixel];
  box(
    pixels,
    left * scale,
    top * scale,
    Math.max(left * scale + 1, right * scale),
    (top + tall) * scale,
    pixelOf(colour, clip.muted ? 0.08 : 0.17)
  );
  const media = mediaOf(clip.mediaId);
  if (!media || perPixel < POINTS) return;
  const peaks = peaksOf(media.sha256);
  if (!peaks && perPixel >= CLOSE) return;
  const each = perPixel / scale;
  const level = peaks ? levelFor(peaks, each) : 0;
  const found: [number, number] = [0, 0];
  const heard = clip.muted ? { ...clip, muted: false } : clip;
  const still = clip.fadeIn === 0 && clip.fadeOut === 0 ? amplitudeAt(heard, clip.start) : null;
  const shift = clip.offset - clip.start;
  const channel = Math.min(clip.channel, media.channels - 1);
  const [middle, half] = [(top + tall / 2) * scale, (tall / 2 - 1) * scale];
  const pixel = pixelOf(colour, clip.muted ? 0.45 : 0.95);
  const last = Math.min(pixels.width, Math.ceil(right * scale));
  for (let x = Math.max(0, Math.floor(left * scale)); x < last; x++) {
    const begin = Math.max(clip.start, from + x * each);
    const end = Math.min(clipEnd(clip), from + (x + 1) * each);
    if (end <= begin) continue;
    if (each < CLOSE && closeUp(samples, media.sha256, channel, begin + shift, end + shift, found)) {
      found[0] *= 32767;
      found[1] *= 32767;
    } else if (peaks) extremes(peaks, level, begin + shift, end + shift, found);
    else continue;
    const gain = (still ?? amplitudeAt(heard, begin, next)) / 32767;
    const up = Math.round(middle - reach(found[1] * gain) * half);
    column(pixels, x, up, Math.max(up + 1, Math.round(middle + reach(-found[0] * gain) * half)), pixel);
  }
}

/** What is drawn over a clip's sound: single samples, fades, its name, whether it is selected. */
function linesOf(pen: CanvasRenderingContext2D, picture: Picture, clip: Clip, next: Clip | undefined): void {
  const { from, perPixel, width, height, paints, selected, mediaOf } = picture;
  const { top, tall } = placeOf(clip, height);
  const [left, right] = [(clip.start - from) / perPixel, (clipEnd(clip) - from) / perPixel];
  if (right - left < 3 && !selected.has(clip.id)) return;
  const [begin, end] = [Math.max(-8, left), Math.min(width + 8, right)];
  const media = mediaOf(clip.mediaId);
  if (media && perPixel < POINTS) singleSamples(pen, picture, clip, next, media, top + tall / 2, tall / 2 - 1);
  paintFades(pen, picture, clip, next, top, tall);
  if (right - left > 46 && tall > 20 && media) {
    const gain = clip.gainDb ? ` ${clip.gainDb > 0 ? '+' : '−'}${Math.abs(clip.gainDb).toFixed(1)}` : '';
    pen.fillStyle = paints.ink;
    pen.font = '600 10.5px "Atkinson Hyperlegible Next Variable", sans-serif';
    pen.globalAlpha = 0.85;
    const at = Math.max(4, left + 7);
    const room = end - at - 6;
    if (room > 20) {
      const text = media.name.replace(/\.[^.]+$/, '') + gain + (clip.muted ? ' (muted)' : '');
      // Measuring text costs more than cutting off what cannot fit.
      pen.fillText(text.slice(0, Math.ceil(room / 4)), at, top + 11, room);
    }
    pen.globalAlpha = 1;
  }
  if (selected.has(clip.id)) {
    pen.strokeStyle = paints.kelp;
    pen.lineWidth = 2;
    pen.strokeRect(begin + 1, top + 1, Math.max(1, end - begin - 2), tall - 2);
    paintHandles(pen, picture, clip, top);
  } else {
    // Where pieces meet a hair tells them apart.
    pen.fillStyle = paints.sheet;
    pen.fillRect(right - 0.75, top, 1.5, tall);
  }
}

/** Each sample a point, joined by a line. */
function singleSamples(
  pen: CanvasRenderingContext2D,
  { from, perPixel, width, samples, paints }: Picture,
  clip: Clip,
  next: Clip | undefined,
  { sha256, channels }: Media,
  middle: number,
  half: number
): void {
  pen.fillStyle = pen.strokeStyle = clip.muted ? paints.muted : paints.family;
  pen.lineWidth = 1;
  pen.beginPath();
  const last = Math.min(clipEnd(clip), from + width * perPixel + 2);
  for (let frame = Math.max(clip.start, Math.floor(from)); frame < last; frame++) {
    const value = samples.at(sha256, Math.min(clip.channel, channels - 1), frame + clip.offset - clip.start);
    if (value === null) break;
    const amplitude = value * amplitudeAt(clip, frame, next);
    const [x, y] = [(frame - from) / perPixel, middle - Math.sign(amplitude) * reach(Math.abs(amplitude)) * half];
    pen.lineTo(x, y);
    pen.fillRect(x - 1.5, y - 1.5, 3, 3);
  }
  pen.stroke();
}

/** Lowest and highest of some samples; whether they are here. */
function closeUp(samples: SampleBlocks, sha256: string, channel: number, from: number, to: number, into: [number, number]): boolean {
  let [low, high] = [Infinity, -Infinity];
  for (let at = Math.floor(from); at < Math.max(to, Math.floor(from) + 1);) {
    const block = samples.from(sha256, channel, at);
    if (!block?.length) return false;
    const count = Math.min(block.length, Math.ceil(to) - at, 4096) || 1;
    for (let i = 0; i < count; i++) {
      if (block[i] < low) low = block[i];
      if (block[i] > high) high = block[i];
    }
    at += count;
  }
  into[0] = Math.min(0, low);
  into[1] = Math.max(0, high);
  return low <= high;
}

function paintFades(
  pen: CanvasRenderingContext2D,
  { from, perPixel, paints }: Picture,
  clip: Clip,
  next: Clip | undefined,
  top: number,
  tall: number
): void {
  pen.strokeStyle = paints.ink;
  pen.lineWidth = 1.25;
  for (const [first, frames] of [
    [clip.start, clip.fadeIn],
    [clipEnd(clip) - clip.fadeOut, clip.fadeOut]
  ]) {
    const pixels = frames / perPixel;
    if (pixels < 3) continue;
    pen.beginPath();
    const steps = Math.min(64, Math.ceil(pixels / 2));
    for (let i = 0; i <= steps; i++) {
      const frame = first + Math.min(frames - 1e-6, (frames * i) / steps);
      pen.lineTo((frame - from) / perPixel, top + tall - fadeAt(clip, frame, next) * tall);
    }
    pen.stroke();
  }
}

/** Rings at the ends of a selected clip's fades: what they are dragged by. */
function paintHandles(pen: CanvasRenderingContext2D, { from, perPixel, paints }: Picture, clip: Clip, top: number): void {
  pen.lineWidth = 1.5;
  for (const frame of [clip.start + clip.fadeIn, clipEnd(clip) - clip.fadeOut]) {
    pen.beginPath();
    pen.arc((frame - from) / perPixel, top + 5, 3.5, 0, 2 * Math.PI);
    pen.fillStyle = paints.sheet;
    pen.fill();
    pen.strokeStyle = paints.kelp;
    pen.stroke();
  }
}

function paintProposal(pen: CanvasRenderingContext2D, { height, paints }: Picture, left: number, right: number, chosen: boolean): void {
  const [top, tall] = [4, height - 8];
  pen.save();
  pen.beginPath();
  pen.rect(left, top, Math.max(2, right - left), tall);
  if (chosen) {
    pen.save();
    pen.clip();
    pen.strokeStyle = paints.persimmon;
    pen.globalAlpha = 0.45;
    pen.lineWidth = 3;
    pen.beginPath();
    for (let x = left - tall; x < right; x += 9) {
      pen.moveTo(x, top + tall);
      pen.lineTo(x + tall, top);
    }
    pen.stroke();
    pen.restore();
    pen.beginPath();
    pen.rect(left, top, Math.max(2, right - left), tall);
  }
  pen.strokeStyle = paints.persimmon;
  pen.lineWidth = 1.25;
  pen.setLineDash([4, 3]);
  pen.stroke();
  pen.restore();
}

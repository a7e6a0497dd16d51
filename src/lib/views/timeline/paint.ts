// Draws a row of the Timeline on its canvas: grid, clips with their picture at their gain and fades, what is proposed and selected.
import { amplitudeAt, fadeAt } from '$core/clips/curves';
import { PEAK_BIN, type Peaks } from '$core/measure/peaks';
import type { Clip, Media } from '$core/session/entities';
import { clipEnd } from '$core/session/joints';
import { firstAfter } from '$core/session/timeline';
import type { SampleBlocks } from '$lib/state/samples';
import { extremes, levelFor, reach } from './picture';

export type Paints = {
  readonly family: string;
  readonly ink: string;
  readonly muted: string;
  readonly line: string;
  readonly sheet: string;
  readonly kelp: string;
  readonly persimmon: string;
};
export type Window = { readonly from: number; readonly perPixel: number; readonly width: number; readonly height: number };
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
  /** A selected range of time. */
  readonly range: { readonly from: number; readonly to: number } | null;
};

/** Closer than this, in frames a pixel, samples are drawn rather than peaks. */
const CLOSE = PEAK_BIN / 4;
/** Closer than this each sample is a point of its own. */
const POINTS = 1 / 6;

export function paintRow(pen: CanvasRenderingContext2D, picture: Picture): void {
  const { from, perPixel, width, height, clips, paints, grid, proposals, range } = picture;
  const x = (frame: number) => (frame - from) / perPixel;
  pen.clearRect(0, 0, width, height);
  pen.fillStyle = paints.line;
  for (const frame of grid) pen.fillRect(Math.round(x(frame)), 0, 1, height);
  const to = from + width * perPixel;
  // Clips of one side alone may end out of order: few tracks have them, and then all are looked at.
  const sided = clips.some(({ side }) => side !== 'both');
  for (let i = sided ? 0 : firstAfter(clips, from, clipEnd); i < clips.length && clips[i].start < to; i++)
    paintClip(
      pen,
      picture,
      clips[i],
      clips.slice(i + 1, i + 3).find(({ side }) => side === clips[i].side)
    );
  for (const { from: begin, to: end, chosen } of proposals)
    if (end > from && begin < to) paintProposal(pen, picture, x(begin), x(end), chosen);
  if (range) {
    pen.fillStyle = paints.kelp;
    pen.globalAlpha = 0.16;
    pen.fillRect(x(range.from), 0, Math.max(1, x(range.to) - x(range.from)), height);
    pen.globalAlpha = 1;
  }
}

/** Top and height of a clip in its row: of one side alone, its half. */
export function placeOf({ side }: Clip, height: number): { readonly top: number; readonly tall: number } {
  const [top, tall] = [3, height - 6];
  return side === 'both' ? { top, tall } : { top: side === 'left' ? top : top + tall / 2, tall: tall / 2 };
}

function paintClip(pen: CanvasRenderingContext2D, picture: Picture, clip: Clip, next: Clip | undefined): void {
  const { from, perPixel, width, height, paints, selected, mediaOf } = picture;
  const x = (frame: number) => (frame - from) / perPixel;
  const { top, tall } = placeOf(clip, height);
  const [left, right] = [x(clip.start), x(clipEnd(clip))];
  const [begin, end] = [Math.max(-8, left), Math.min(width + 8, right)];
  const colour = clip.muted ? paints.muted : paints.family;
  pen.save();
  pen.beginPath();
  pen.roundRect(begin, top, Math.max(1, end - begin), tall, Math.min(4, (end - begin) / 2));
  pen.fillStyle = colour;
  pen.globalAlpha = clip.muted ? 0.08 : 0.17;
  pen.fill();
  pen.clip();
  pen.globalAlpha = clip.muted ? 0.45 : 0.95;
  const media = mediaOf(clip.mediaId);
  if (media) paintSound(pen, picture, clip, next, media, [Math.max(0, begin), Math.min(width, end)], top, tall, colour);
  pen.globalAlpha = 1;
  paintFades(pen, picture, clip, next, top, tall);
  if (right - left > 46 && tall > 20 && media) {
    pen.fillStyle = paints.ink;
    pen.font = '600 10.5px "Atkinson Hyperlegible Next Variable", sans-serif';
    pen.globalAlpha = 0.85;
    pen.fillText(
      media.name.replace(/\.[^.]+$/, '') +
        (clip.gainDb ? ` ${clip.gainDb > 0 ? '+' : '−'}${Math.abs(clip.gainDb).toFixed(1)}` : '') +
        (clip.muted ? ' (muted)' : ''),
      Math.max(4, left + 7),
      top + 11,
      Math.max(20, end - Math.max(4, left) - 12)
    );
  }
  pen.restore();
  if (selected.has(clip.id)) {
    pen.strokeStyle = paints.kelp;
    pen.lineWidth = 2;
    pen.beginPath();
    pen.roundRect(begin + 1, top + 1, Math.max(1, end - begin - 2), tall - 2, Math.min(4, Math.max(0, (end - begin - 2) / 2)));
    pen.stroke();
    paintHandles(pen, picture, clip, top);
  } else if (right - left > 3) {
    // Where pieces meet a hair tells them apart.
    pen.fillStyle = paints.sheet;
    pen.fillRect(right - 0.75, top, 1.5, tall);
  }
}

function paintSound(
  pen: CanvasRenderingContext2D,
  { from, perPixel, samples, peaksOf }: Picture,
  clip: Clip,
  next: Clip | undefined,
  { sha256, channels }: Media,
  [first, last]: readonly [number, number],
  top: number,
  tall: number,
  colour: string
): void {
  const middle = top + tall / 2;
  const half = tall / 2 - 1;
  const shift = clip.offset - clip.start;
  pen.fillStyle = pen.strokeStyle = colour;
  const sign = (value: number) => Math.sign(value) * reach(Math.abs(value)) * half;
  if (perPixel < POINTS) {
    pen.beginPath();
    pen.lineWidth = 1;
    for (
      let frame = Math.max(clip.start, Math.floor(from + first * perPixel));
      frame < Math.min(clipEnd(clip), from + last * perPixel + 1);
      frame++
    ) {
      const value = samples.at(sha256, Math.min(clip.channel, channels - 1), frame + shift);
      if (value === null) break;
      const [x, y] = [(frame - from) / perPixel, middle - sign(value * amplitudeAt(clip, frame, next))];
      pen.lineTo(x, y);
      pen.fillRect(x - 1.5, y - 1.5, 3, 3);
    }
    return pen.stroke();
  }
  const peaks = peaksOf(sha256);
  if (!peaks && perPixel >= CLOSE) return;
  const level = peaks ? levelFor(peaks, perPixel) : 0;
  const found: [number, number] = [0, 0];
  const still = clip.fadeIn === 0 && clip.fadeOut === 0 ? amplitudeAt({ ...clip, muted: false }, clip.start) : null;
  const heard = clip.muted ? { ...clip, muted: false } : clip;
  pen.beginPath();
  for (let x = Math.floor(first); x < last; x++) {
    const begin = Math.max(clip.start, from + x * perPixel);
    const end = Math.min(clipEnd(clip), from + (x + 1) * perPixel);
    if (end <= begin) continue;
    if (perPixel < CLOSE && closeUp(samples, sha256, Math.min(clip.channel, channels - 1), begin + shift, end + shift, found)) {
      found[0] *= 32767;
      found[1] *= 32767;
    } else if (peaks) extremes(peaks, level, begin + shift, end + shift, found);
    else continue;
    const gain = (still ?? amplitudeAt(heard, begin, next)) / 32767;
    const [up, down] = [reach(found[1] * gain) * half, reach(-found[0] * gain) * half];
    pen.rect(x, middle - up, 1, Math.max(1, up + down));
  }
  pen.fill();
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

// Draws a lane on its canvas: grid, what stands for nothing done, its course and its points; a stroke that is being drawn.
import { valueAt } from '$core/lanes/course';
import type { LaneKind } from '$core/lanes/kinds';
import type { Point } from '$core/session/entities';
import { firstAfter } from '$core/session/timeline';
import type { Paints } from './canvas';
import { heightOf } from './laneScale';

/** Pixels that are left free above and below. */
export const EDGE = 6;

export type LanePicture = {
  readonly from: number;
  readonly perPixel: number;
  readonly width: number;
  readonly height: number;
  readonly scale: number;
  readonly grid: readonly number[];
  readonly kind: LaneKind;
  readonly points: readonly Point[];
  /** What it is where no lane plays. */
  readonly resting: number;
  readonly plays: boolean;
  readonly chosen: ReadonlySet<number>;
  readonly stroke: readonly { readonly at: number; readonly value: number }[];
  readonly range: { readonly from: number; readonly to: number } | null;
  readonly paints: Paints;
};

export const yOf = (kind: LaneKind, value: number, height: number): number => height - EDGE - heightOf(kind, value) * (height - 2 * EDGE);

export function paintLane(canvas: HTMLCanvasElement, picture: LanePicture): void {
  const { from, perPixel, width, height, scale, grid, kind, points, resting, plays, chosen, stroke, range, paints } = picture;
  const context = canvas.getContext('2d')!;
  context.setTransform(scale, 0, 0, scale, 0, 0);
  context.clearRect(0, 0, width, height);
  const x = (frame: number) => (frame - from) / perPixel;
  const y = (value: number) => yOf(kind, value, height);
  if (range) {
    context.globalAlpha = 0.16;
    context.fillStyle = paints.kelp;
    context.fillRect(x(range.from), 0, (range.to - range.from) / perPixel, height);
    context.globalAlpha = 1;
  }
  context.fillStyle = paints.line;
  for (const frame of grid) context.fillRect(Math.round(x(frame)), 0, 1, height);
  // Where it would stand, or nothing is added.
  const mark = points.length ? neutral(kind) : resting;
  if (mark !== null) {
    context.strokeStyle = paints.muted;
    context.globalAlpha = 0.55;
    context.setLineDash([2, 4]);
    line(context, 0, y(mark), width, y(mark));
    context.setLineDash([]);
    context.globalAlpha = 1;
  }
  context.strokeStyle = plays ? paints.family : paints.muted;
  context.globalAlpha = plays ? 1 : 0.6;
  context.lineWidth = 1.6;
  if (points.length) course(context, picture, x, y);
  const first = firstAfter(points, from - 8 * perPixel, (point) => point.at);
  const last = firstAfter(points, from + (width + 8) * perPixel, (point) => point.at);
  // Where they stand closer than they are wide the course says enough.
  const crowded = last - first > width / 5;
  if (!crowded)
    for (let i = first; i < last; i++) {
      const { at, value } = points[i];
      context.beginPath();
      context.arc(x(at), y(value), chosen.has(at) ? 4.5 : 3.4, 0, Math.PI * 2);
      context.fillStyle = chosen.has(at) ? paints.ink : paints.sheet;
      context.fill();
      context.stroke();
    }
  context.globalAlpha = 1;
  if (stroke.length < 2) return;
  context.strokeStyle = paints.ink;
  context.beginPath();
  stroke.forEach(({ at, value }, i) => (i ? context.lineTo(x(at), y(value)) : context.moveTo(x(at), y(value))));
  context.stroke();
}

/** The value by which nothing is changed, where there is one. */
const neutral = ({ scale, unit, min, max }: LaneKind): number | null =>
  scale === 'level' ? 0 : scale === 'plain' && min < 0 && max > 0 ? 0 : unit === '%' && max === 200 ? 100 : null;

function line(context: CanvasRenderingContext2D, x0: number, y0: number, x1: number, y1: number): void {
  context.beginPath();
  context.moveTo(x0, y0);
  context.lineTo(x1, y1);
  context.stroke();
}

function course(
  context: CanvasRenderingContext2D,
  { from, perPixel, width, kind, points }: LanePicture,
  x: (frame: number) => number,
  y: (value: number) => number
): void {
  context.beginPath();
  context.moveTo(0, y(valueAt(points, kind.scale, from)));
  let next = firstAfter(points, from, (point) => point.at);
  for (let pixel = 1; pixel <= width; pixel++) {
    const until = from + pixel * perPixel;
    // Points within the pixel: of very many the first and the last say what there is to see.
    let seen = 0;
    for (; next < points.length && points[next].at <= until; next++) {
      const before = points[next - 1];
      if (before?.shape === 'hold' || kind.scale === 'steps') context.lineTo(x(points[next].at), y(before?.value ?? points[next].value));
      if (seen++ < 3 || points[next + 1]?.at > until) context.lineTo(x(points[next].at), y(points[next].value));
    }
    context.lineTo(pixel, y(valueAt(points, kind.scale, until)));
  }
  context.stroke();
}

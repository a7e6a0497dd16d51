// Draws every level rail once a frame: one loop for all canvases on screen.
import type { Transport } from '../state/transport.svelte';
import { railAt } from './scale';

type Rail = { readonly canvas: HTMLCanvasElement; id: string; colour: string; drawn: string };

const rails = new Set<Rail>();
let running = 0;

/** Keeps a canvas drawn as the level rail of a channel. */
export function railCanvas(canvas: HTMLCanvasElement, given: { id: string; colour: string }) {
  const rail: Rail = { canvas, ...given, drawn: '' };
  rails.add(rail);
  return {
    update: (next: { id: string; colour: string }) => Object.assign(rail, next, { drawn: '' }),
    destroy: () => rails.delete(rail)
  };
}

/** Starts the loop; returns how to end it. */
export function drawMeters(transport: Transport): () => void {
  const mine = ++running;
  const loop = () => {
    if (mine !== running) return;
    transport.frame();
    for (const rail of rails) draw(rail, transport);
    requestAnimationFrame(loop);
  };
  requestAnimationFrame(loop);
  return () => void running++;
}

/** Makes the next frame draw everything anew, as after a change of theme. */
export const redrawMeters = (): void => rails.forEach((rail) => (rail.drawn = ''));

function draw(rail: Rail, transport: Transport): void {
  const { canvas } = rail;
  const scale = window.devicePixelRatio || 1;
  const [width, height] = [Math.round(canvas.clientWidth * scale), Math.round(canvas.clientHeight * scale)];
  if (width === 0) return;
  const level = transport.level(rail.id);
  const [rms, peak, hold] = [level?.rms ?? -200, level?.peak ?? -200, level?.hold ?? -200].map((db) => Math.round(railAt(db) * width));
  const key = `${width} ${height} ${rms} ${peak} ${hold}`;
  if (key === rail.drawn) return;
  rail.drawn = key;
  if (canvas.width !== width) canvas.width = width;
  if (canvas.height !== height) canvas.height = height;
  const pen = canvas.getContext('2d')!;
  const styles = getComputedStyle(canvas);
  pen.clearRect(0, 0, width, height);
  const bar = (to: number, colour: string, alpha: number) => {
    pen.globalAlpha = alpha;
    pen.fillStyle = colour;
    pen.beginPath();
    pen.roundRect(0, 0, to, height, height / 3);
    pen.fill();
  };
  bar(width, styles.getPropertyValue('--rail'), 1);
  if (peak > 0) bar(peak, styles.color, 0.45);
  if (rms > 0) bar(rms, styles.color, 1);
  pen.globalAlpha = 1;
  pen.fillStyle = styles.getPropertyValue('--line');
  pen.fillRect(Math.round(railAt(0) * width), 0, Math.max(1, scale), height);
  if (hold > 0) {
    pen.fillStyle = hold > railAt(0) * width ? styles.getPropertyValue('--persimmon') : styles.getPropertyValue('--ink');
    pen.fillRect(hold, 0, Math.max(1, scale), height);
  }
}

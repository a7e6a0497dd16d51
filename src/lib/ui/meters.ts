// Draws every level rail and gain reduction, and moves the position on: one loop for all on screen.
import type { Transport } from '../state/transport.svelte';
import { drawReductions } from './reductions';
import { railAt } from './scale';

/** What a rail shows: a channel's own level, or, of what has none, the loudest of others, faintly. */
type Shows = { id: string; colour: string; of?: readonly string[] | null };
type Rail = Shows & { readonly canvas: HTMLCanvasElement; drawn: string; width: number; height: number };

/** Until the next frame is asked for: 20 to 25 looks a second. A meter is read no faster, and to draw costs more than all that is heard. */
const PAUSE_MS = 36;

const rails = new Map<Element, Rail>();
/** Sizes are told: to ask for them would lay the page out in the middle of a change. */
let sizes: ResizeObserver | null = null;
const sized = (list: readonly ResizeObserverEntry[]) => {
  for (const { target, contentRect } of list) {
    const rail = rails.get(target);
    if (rail) Object.assign(rail, { width: contentRect.width, height: contentRect.height });
  }
};
let running = 0;

/** Keeps a canvas drawn as the level rail of a channel. */
export function railCanvas(canvas: HTMLCanvasElement, given: Shows) {
  const rail: Rail = { canvas, ...given, drawn: '', width: 0, height: 0 };
  rails.set(canvas, rail);
  sizes ??= new ResizeObserver(sized);
  sizes.observe(canvas);
  return {
    update: (next: Shows) => Object.assign(rail, next, { drawn: '' }),
    destroy: () => {
      sizes!.unobserve(canvas);
      rails.delete(canvas);
    }
  };
}

/** What else follows the sound, at every second look. */
const others = new Set<() => void>();
const OTHERS_EVERY = 2;
let looks = 0;

/** Has something looked after with the meters, in the same frame; returns how to end it. */
export function alongMeters(look: () => void): () => void {
  others.add(look);
  return () => void others.delete(look);
}

/** Starts the loop; returns how to end it. */
export function drawMeters(transport: Transport): () => void {
  const mine = ++running;
  // Asked for only when it is due: every frame that a page asks for is laid out, whether anything changed or not.
  const again = () => void setTimeout(() => requestAnimationFrame(loop), PAUSE_MS);
  const loop = () => {
    if (mine !== running) return;
    again();
    transport.frame();
    const scale = window.devicePixelRatio || 1;
    for (const rail of rails.values()) draw(rail, transport, Math.round(rail.width * scale), Math.round(rail.height * scale), scale);
    drawReductions(transport);
    if (++looks % OTHERS_EVERY === 0) for (const look of others) look();
  };
  requestAnimationFrame(loop);
  return () => void running++;
}

/** Makes the next frame draw everything anew, as after a change of theme. */
export const redrawMeters = (): void => {
  inks = null;
  for (const rail of rails.values()) rail.drawn = '';
};

/** The theme's colours, read once: asking for a style makes the browser work out all that is pending. */
let inks: { readonly rail: string; readonly line: string; readonly over: string; readonly ink: string } | null = null;

function readInks(canvas: HTMLCanvasElement) {
  const styles = getComputedStyle(canvas);
  const of = (name: string) => styles.getPropertyValue(name);
  return { rail: of('--rail'), line: of('--line'), over: of('--persimmon'), ink: of('--ink') };
}

function draw(rail: Rail, transport: Transport, width: number, height: number, scale: number): void {
  const { canvas } = rail;
  if (width === 0) return;
  const levels = (rail.of ?? [rail.id]).flatMap((id) => transport.level(id) ?? []);
  const most = (of: 'rms' | 'peak' | 'hold') => levels.reduce((loudest, level) => Math.max(loudest, level[of]), -200);
  const [rms, peak, hold] = [most('rms'), most('peak'), rail.of ? -200 : most('hold')].map((db) => Math.round(railAt(db) * width));
  const key = `${width} ${height} ${rms} ${peak} ${hold}`;
  if (key === rail.drawn) return;
  rail.drawn = key;
  if (canvas.width !== width) canvas.width = width;
  if (canvas.height !== height) canvas.height = height;
  const pen = canvas.getContext('2d')!;
  const colours = (inks ??= readInks(canvas));
  pen.clearRect(0, 0, width, height);
  const bar = (to: number, colour: string, alpha: number) => {
    pen.globalAlpha = alpha;
    pen.fillStyle = colour;
    pen.beginPath();
    pen.roundRect(0, 0, to, height, height / 3);
    pen.fill();
  };
  bar(width, colours.rail, 1);
  const own = peak > 0 || rms > 0 ? getComputedStyle(canvas).color : '';
  const strength = rail.of ? 0.4 : 1;
  if (peak > 0) bar(peak, own, 0.45 * strength);
  if (rms > 0) bar(rms, own, strength);
  pen.globalAlpha = 1;
  pen.fillStyle = colours.line;
  pen.fillRect(Math.round(railAt(0) * width), 0, Math.max(1, scale), height);
  if (hold > 0) {
    pen.fillStyle = hold > railAt(0) * width ? colours.over : colours.ink;
    pen.fillRect(hold, 0, Math.max(1, scale), height);
  }
}

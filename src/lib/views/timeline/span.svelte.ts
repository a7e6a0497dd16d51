// The stretch of time on screen: where it begins, how many frames a pixel is, and how it is zoomed and moved.
import { endOf } from '$core/session/select';
import type { SessionStore } from '$lib/state/session.svelte';

export type TimeSpan = ReturnType<typeof createSpan>;

/** Pixels a frame at the closest. */
const CLOSEST = 24;

export function createSpan(store: SessionStore) {
  let from = $state(0);
  /** Frames a pixel; 0 is not chosen yet: all of the song. */
  let chosen = $state(0);
  let width = $state(800);
  const end = $derived.by(() => {
    store.watchClips();
    return Math.max(endOf(store.session), store.settings.rate * 4);
  });
  const whole = $derived((end * 1.02) / Math.max(100, width));
  const perPixel = $derived(chosen === 0 ? whole : Math.min(whole, chosen));
  const held = (frame: number) => Math.max(0, Math.min(frame, end * 1.02 - width * perPixel));
  return {
    /** Timeline frame of the left edge. */
    get from() {
      return held(from);
    },
    get perPixel() {
      return perPixel;
    },
    get width() {
      return width;
    },
    /** Frames that can be shown. */
    get whole() {
      return end * 1.02;
    },
    setWidth: (pixels: number) => (width = pixels),
    frameAt: (x: number): number => held(from) + x * perPixel,
    xOf: (frame: number): number => (frame - held(from)) / perPixel,
    /** So many times closer, around a place in pixels that stays where it is. */
    zoom: (factor: number, x = width / 2) => {
      const at = held(from) + x * perPixel;
      const next = Math.max(1 / CLOSEST, Math.min(whole, perPixel / factor));
      chosen = next >= whole ? 0 : next;
      from = Math.max(0, at - x * next);
    },
    /** Moves it by pixels. */
    move: (pixels: number) => (from = held(held(from) + pixels * perPixel)),
    show: (first: number, last: number) => {
      chosen = Math.max(1 / CLOSEST, ((last - first) * 1.1) / width);
      from = Math.max(0, first - (last - first) * 0.05);
    },
    all: () => {
      chosen = 0;
      from = 0;
    },
    to: (frame: number) => (from = Math.max(0, frame)),
    /** Moves it just so far that a frame is in view. */
    reveal: (frame: number) => {
      const x = (frame - held(from)) / perPixel;
      if (x < 0 || x > width - 8) from = Math.max(0, frame - width * perPixel * 0.15);
    }
  };
}

// Messages between the page and the mix worker.
import type { Span } from '$core/engine/engine';
import type { Change } from '$core/session/changes';
import type { SessionDocument } from '$core/session/tables';

/** What is listened to, apart from what is printed: an interface output pair, or a channel after its fader. */
export type Listening = {
  readonly to: { readonly pair: number } | { readonly id: string };
  readonly dim: boolean;
  readonly mono: boolean;
  readonly swap: boolean;
};

export type ToMixer =
  | { readonly kind: 'open'; readonly document: SessionDocument; readonly kernel: WebAssembly.Module; readonly buffer: SharedArrayBuffer }
  | { readonly kind: 'changes'; readonly changes: readonly Change[] }
  | { readonly kind: 'play'; readonly from: number }
  | { readonly kind: 'stop' }
  | { readonly kind: 'loop'; readonly loop: Span | null }
  | { readonly kind: 'listen'; readonly listening: Listening }
  /** Plays a version of the mix in its place, or with null the mix again; at once, or from the next bar on. */
  | { readonly kind: 'hear'; readonly version: string | null; readonly when: 'now' | 'bar' };

export type FromMixer =
  | { readonly kind: 'order'; readonly serial: number; readonly ids: readonly string[]; readonly inserts: readonly string[] }
  /** What is played of the mix from now on. */
  | { readonly kind: 'heard'; readonly version: string | null }
  | { readonly kind: 'trouble'; readonly message: string };

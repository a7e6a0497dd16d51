// Messages between the page and the mix worker.
import type { Span } from '$core/engine/engine';
import type { Change } from '$core/session/changes';
import type { SessionDocument } from '$core/session/tables';

export type ToMixer =
  | { readonly kind: 'open'; readonly document: SessionDocument; readonly kernel: WebAssembly.Module; readonly buffer: SharedArrayBuffer }
  | { readonly kind: 'changes'; readonly changes: readonly Change[] }
  | { readonly kind: 'play'; readonly from: number }
  | { readonly kind: 'stop' }
  | { readonly kind: 'loop'; readonly loop: Span | null };

export type FromMixer =
  | { readonly kind: 'order'; readonly serial: number; readonly ids: readonly string[] }
  | { readonly kind: 'trouble'; readonly message: string };

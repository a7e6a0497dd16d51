// The signal passing each crosspoint now: hairs grow bright and dots fill while it sounds. All of them are looked at some times a second.
import { sendId, type Session } from '$core/session/entities';
import { alongMeters } from '$lib/ui/meters';
import type { Transport } from '$lib/state/transport.svelte';

/** Steps of brightness: a style is only touched when its step changes. */
const STEPS = 6;
const QUIET = -66;

const cells = new Map<HTMLElement, { of: () => readonly [string, string]; step: number }>();
const dots = new Map<HTMLElement, { id: string; on: boolean }>();

/** Keeps a crosspoint's hair as bright as what passes it. */
export function arrivalHair(cell: HTMLElement, of: () => readonly [string, string]) {
  cells.set(cell, { of, step: 0 });
  return { update: (next: typeof of) => cells.set(cell, { of: next, step: -1 }), destroy: () => cells.delete(cell) };
}

/** Keeps a dot filled while anything comes out of a return or cue. */
export function arrivalDot(dot: HTMLElement, id: string) {
  dots.set(dot, { id, on: false });
  return { update: (next: string) => dots.set(dot, { id: next, on: false }), destroy: () => dots.delete(dot) };
}

/** Level of what passes a send now, dBFS peak. What is taken before the fader is metered there. */
export function passing(session: Session, transport: Pick<Transport, 'level'>, source: string, target: string): number {
  const send = session.send.get(sendId(source, target));
  if (!send?.on) return -Infinity;
  const level = transport.level(send.tap === 'post' ? source : `${source}<${send.tap}`);
  return level ? level.peak + send.levelDb : -Infinity;
}

const stepOf = (db: number) => Math.max(0, Math.min(STEPS, Math.ceil(((db - QUIET) / -QUIET) * STEPS)));

/** Starts looking; returns how to end it. */
export function drawArrivals(session: Session, transport: Transport): () => void {
  return alongMeters(() => {
    for (const [cell, state] of cells) {
      const step = stepOf(passing(session, transport, ...state.of()));
      if (step === state.step) continue;
      state.step = step;
      if (step === 0) cell.style.removeProperty('--bright');
      else cell.style.setProperty('--bright', (0.6 + (0.4 * step) / STEPS).toFixed(2));
    }
    for (const [dot, state] of dots) {
      const on = (transport.level(state.id)?.peak ?? -Infinity) > QUIET;
      if (on === state.on) continue;
      state.on = on;
      dot.classList.toggle('arriving', on);
    }
  });
}

// What is listened to: a pair, a channel, dimmed, mono, swapped; every change glides, also one that comes while another is under way.
import { describe, expect, it } from 'vitest';
import type { Engine } from '$core/engine/engine';
import { PERIOD } from '$core/kernel/period';
import { createMonitor, MIX_PAIR } from './monitor';
import type { Listening } from './protocol';

/** An engine whose outputs stand still: the mix at 0.5 and 0.25, the second pair at −0.1, a channel at 0.8. */
const still = (level: number) => new Float32Array(PERIOD).fill(level);
const engine = {
  out: (side: 0 | 1, pair = 0) => (pair === 0 ? still(side ? 0.25 : 0.5) : still(-0.1)),
  tap: (id: string) => (id === 'lead' ? still(0.8) : null)
} as unknown as Engine;

/** What is heard over so many periods, and the steepest step in it. */
function hear(monitor: ReturnType<typeof createMonitor>, periods: number, last: { l: number; r: number }) {
  const left = new Float32Array(PERIOD);
  const right = new Float32Array(PERIOD);
  let steepest = 0;
  for (let n = 0; n < periods; n++) {
    monitor.write(engine, left, right, 0);
    for (let i = 0; i < PERIOD; i++) {
      steepest = Math.max(steepest, Math.abs(left[i] - last.l), Math.abs(right[i] - last.r));
      Object.assign(last, { l: left[i], r: right[i] });
    }
  }
  return steepest;
}
const listening = (more: Partial<Listening>): Listening => ({ ...MIX_PAIR, ...more });

describe('the monitor', () => {
  it.each<[string, Partial<Listening>, number, number]>([
    ['the mix', {}, 0.5, 0.25],
    ['the second pair', { to: { pair: 1 } }, -0.1, -0.1],
    ['a channel', { to: { id: 'lead' } }, 0.8, 0.8],
    ['a channel that is gone', { to: { id: 'nobody' } }, 0, 0],
    ['the mix 20 dB down', { dim: true }, 0.05, 0.025],
    ['the mix in mono', { mono: true }, 0.375, 0.375],
    ['the mix with its sides swapped', { swap: true }, 0.25, 0.5],
    ['a dimmed channel in mono', { to: { id: 'lead' }, dim: true, mono: true }, 0.08, 0.08]
  ])('hears %s, and glides there', (_, what, l, r) => {
    const monitor = createMonitor();
    const last = { l: 0.5, r: 0.25 };
    hear(monitor, 4, last);
    monitor.listen(listening(what));
    // A glide of 16 periods: no step is more than a share of the way.
    expect(hear(monitor, 20, last)).toBeLessThan(2 / (16 * PERIOD));
    expect(last).toEqual({ l: expect.closeTo(l, 6) as number, r: expect.closeTo(r, 6) as number });
  });

  it('adds nothing to what stood in the buffer, and writes only its own period', () => {
    const monitor = createMonitor();
    const left = new Float32Array(PERIOD * 2).fill(9);
    const right = new Float32Array(PERIOD * 2).fill(9);
    monitor.write(engine, left, right, PERIOD);
    expect([left[PERIOD - 1], left[PERIOD], right[PERIOD], right[2 * PERIOD - 1]]).toEqual([9, 0.5, 0.25, 0.25]);
  });
});

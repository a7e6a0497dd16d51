// What is registered of every processor: sound in itself, and true to what its folder holds.
import { describe, expect, it } from 'vitest';
import { module } from '../../tests/oracle/rig.ts';
import { opOf, startKernel } from '../kernel/kernel.ts';
import { newChannel } from '../session/create.ts';
import { advance, aim, glideAt, GLIDE_PERIODS, writeRamp } from './glide.ts';
import { INSERT_TYPES, newInsert, processors, valuesOf } from './index.ts';
import { adoptSwitched, changeOver, partsOf, stepFade, switched, turn } from './switched.ts';

const parts = import.meta.glob('./*/kernel.ts', { query: '?raw', import: 'default', eager: true });
const oracles = import.meta.glob('./*/oracle.ts', { eager: true });

describe.each(INSERT_TYPES)('%s', (type) => {
  const { specs, title, onChannel = {}, gains, crosses, bends, latency, stereo } = processors[type];

  it('has parameters with a default in their range, and a name that does not change', () => {
    expect(type).toMatch(/^[a-z]+$/);
    expect(title).toMatch(/^[a-z][a-z -]+$/);
    for (const [id, { min, max, default: value, choices, label }] of specs) {
      expect(min, id).toBeLessThan(max);
      expect(value, id).toBeGreaterThanOrEqual(min);
      expect(value, id).toBeLessThanOrEqual(max);
      if (choices) expect([min, max], id).toEqual([0, choices.length - 1]);
      expect(label, id).toMatch(/\S/);
    }
    for (const [id, value] of Object.entries(onChannel)) expect(specs.get(id)!.max, id).toBeGreaterThanOrEqual(value);
  });

  it('answers what is asked of it, at its defaults', () => {
    const values = valuesOf(type, {});
    expect(Number.isInteger(latency(48000, {}))).toBe(true);
    if (gains) expect(gains(values, 2)).toEqual({ matrix: [1, 0, 0, 1], level: 0, exact: true });
    expect(crosses?.(values) ?? false).toBe(false);
    expect(typeof (bends?.(values) ?? false)).toBe('boolean');
    const at = (kind: 'track' | 'return') =>
      newInsert('x', newChannel({ id: 'c', kind, name: 'C', position: 0, born: 0, width: 2 }), type, 1).params;
    expect(at('return')).toEqual({});
    expect(at('track')).toEqual(onChannel);
    if (stereo) expect(onChannel).not.toEqual({});
  });

  it('has an oracle, and a place in the kernel where it has a part there', () => {
    expect(oracles[`./${type}/oracle.ts`]).toMatchObject({ oracle: expect.any(Function) });
    const kernel = startKernel(module);
    if (parts[`./${type}/kernel.ts`]) expect(opOf(kernel, type)).toBeGreaterThan(255);
    else expect(() => opOf(kernel, type)).toThrow();
  });
});

describe('what cannot glide', () => {
  it('fades out, changes while it is silent, and fades in; at once with a snap', () => {
    const mode = switched('a');
    turn(mode, 'b', { snap: false, same: false });
    const heard: [string, number][] = [];
    for (let i = 0; i < 2 * GLIDE_PERIODS + 2; i++) {
      changeOver(mode);
      stepFade(mode);
      heard.push([mode.now, mode.fade.value]);
    }
    const first = heard.findIndex(([now]) => now === 'b');
    // In the period before it was silent, and it is full again in the end.
    expect(heard[first - 1]).toEqual(['a', 0]);
    expect(heard.at(-1)).toEqual(['b', 1]);
    expect(heard.slice(0, first).every(([, value], i) => i === 0 || value < heard[i - 1][1])).toBe(true);
    turn(mode, 'c', { snap: true, same: false });
    expect([mode.now, mode.fade.value]).toEqual(['c', 1]);
  });

  it('takes what is wanted last, does nothing for the same, and goes over to another plan in the middle of it', () => {
    const mode = switched(0);
    turn(mode, 0, { snap: false, same: true });
    expect(stepFade(mode)).toEqual({ was: 1, moved: false });
    turn(mode, 1, { snap: false, same: false });
    stepFade(mode);
    turn(mode, 2, { snap: false, same: false });
    const next = switched(0);
    adoptSwitched(next, mode);
    expect([next.now, next.wanted, next.fade]).toEqual([0, 2, mode.fade]);
    for (let i = 0; i < 3 * GLIDE_PERIODS; i++) {
      changeOver(next);
      stepFade(next);
    }
    expect([next.now, next.fade.value]).toEqual([2, 1]);
    // Both objects that change are known to the journal.
    expect(partsOf(next)).toEqual([next, next.fade]);
  });
});

it('glides arrive exactly, in whole periods, and are written as a start and a step', () => {
  const glide = glideAt(0);
  aim(glide, 1 / 3, false);
  let periods = 0;
  while (advance(glide)) periods++;
  expect([periods, glide.value]).toEqual([GLIDE_PERIODS, 1 / 3]);
  const f32 = new Float32Array(4);
  writeRamp(f32, 8, 1, 0);
  expect([...f32]).toEqual([0, 0, 1, -1 / 64]);
});

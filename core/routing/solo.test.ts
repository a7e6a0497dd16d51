// Solo against its oracle, on random small graphs: a thousand here, more with SOLO_GRAPHS=100000 (`npm run oracle`).
import { expect, it } from 'vitest';
import { openWays, randomSession, verdict } from '../../tests/oracle/solo.ts';
import { audibility } from './audibility.ts';

/** Mulberry32. */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const COUNT = Number(process.env.SOLO_GRAPHS ?? 1000);

it(`opens the smallest set of edges that lets all that is asked for be heard, on ${COUNT} graphs`, { timeout: 600_000 }, () => {
  const next = seeded(5);
  let soloed = 0;
  let extras = 0;
  for (let i = 0; i < COUNT; i++) {
    const session = randomSession(next);
    // What rests is not soloed, and nothing soloed is no solo.
    if (![...session.channel.values()].some(({ solo, resting }) => solo && !resting)) continue;
    soloed++;
    const { outputOpen, sendOpen, state } = audibility(session);
    const oracle = verdict(session);
    const name = (from: string, to: string | null, send: boolean) => `${from}${send ? '>' : ':'}${to ?? ''}`;
    const byRule = openWays(session, (from, to, send) => (send ? sendOpen(from, to!) : outputOpen(from)));
    const byOracle = openWays(session, (from, to, send) => oracle.open.has(name(from, to, send)));
    expect(byRule, `graph ${i}`).toEqual(byOracle);
    for (const { id, kind } of session.channel.values()) {
      if (kind !== 'track') continue;
      const { heard } = state(id);
      expect(heard === 'heard', `heard: ${id} of graph ${i}`).toBe(oracle.heard.has(id) && !oracle.also.has(id));
    }
    if (oracle.also.size) extras++;
  }
  expect(soloed).toBeGreaterThan(COUNT / 2);
  // Extras are there, and rare.
  expect(extras / soloed).toBeGreaterThan(0.001);
  expect(extras / soloed).toBeLessThan(0.05);
  console.log(`Solo: ${soloed} graphs with something soloed, ${((extras / soloed) * 100).toFixed(1)} % with unavoidable extras`);
});

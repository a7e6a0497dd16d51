// The benchmark session: so many tracks with equaliser, compressor and three sends each, through buses, returns and stems.
import type { Command } from '../core/commands/index.ts';
import { plan } from '../core/commands/plan.ts';
import { newSession } from '../core/session/create.ts';
import { commit } from '../core/session/changes.ts';
import type { Session } from '../core/session/entities.ts';

export const RATE = 48000;
export const SECONDS = 30;

/** Four bands: high-pass, low shelf, bell, high shelf. */
const BANDS = { 'b1.on': 1, 'b1.freq': 60, 'b2.on': 1, 'b2.gain': 2, 'b3.on': 1, 'b3.gain': -3, 'b5.on': 1, 'b5.gain': 2.5 };

export function carryOut(session: Session, ...commands: Command[]): void {
  for (const command of commands) {
    const planned = plan(session, command);
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
  }
}

export const many = (count: number, prefix: string): string[] => Array.from({ length: count }, (_, i) => `${prefix}${i}`);

export const tracks = (ids: readonly string[]): Command => ({
  do: 'tracks.add',
  tracks: ids.map((id) => ({
    id,
    name: id,
    colour: 0,
    media: {
      id: `m-${id}`,
      name: id,
      sha256: '0'.repeat(64),
      rate: RATE,
      channels: 1,
      frames: RATE * SECONDS,
      encoding: 'f32' as const,
      peakDb: 0,
      origin: null
    }
  }))
});

/**
 * Tracks × [four-band equaliser + compressor + 3 sends, one of them `pre`], 10 buses with equaliser + compressor,
 * 6 returns (2 reverbs, 2 delays, 2 compressors), `stemCount` stems, a mix bus with equaliser + compressor + limiter.
 */
export function benchDesk(count: number, stemCount = 4): Session {
  const session = newSession({ name: 'Bench', rate: RATE });
  const ids = many(count, 't');
  const buses = many(10, 'b');
  const stems = many(stemCount, 's');
  const returns = many(6, 'r');
  const insert = (channelId: string, type: 'eq' | 'comp' | 'delay' | 'limiter', values: Record<string, number>): Command[] => [
    { do: 'inserts.add', id: `${channelId}:${type}`, channelId, type },
    { do: 'inserts.set', id: `${channelId}:${type}`, values }
  ];
  const strip = (id: string) => [...insert(id, 'eq', BANDS), ...insert(id, 'comp', { threshold: -24 })];
  carryOut(
    session,
    tracks(ids),
    ...stems.map((id): Command => ({ do: 'buses.add', id, name: id })),
    ...buses.map((id, i): Command => ({ do: 'buses.add', id, name: id, outputId: stems[i % stemCount] })),
    ...buses.map((id, i): Command => ({ do: 'channels.route', ids: ids.filter((_, n) => n % 10 === i), to: id })),
    ...returns.map((id, i): Command => ({ do: 'returns.add', id, name: id, effect: i < 2 ? 'reverb' : 'none' })),
    ...['r2', 'r3'].flatMap((id) => insert(id, 'delay', { mode: 2, taps: 2 })),
    ...['r4', 'r5'].flatMap((id) => insert(id, 'comp', { ratio: 8 })),
    {
      do: 'sends.set',
      sends: ids.flatMap((source, n) =>
        [0, 1, 2].map((i) => ({ source, target: returns[(n + i * 2) % 6], level: -12, tap: i ? ('post' as const) : ('pre' as const) }))
      )
    },
    ...[...ids, ...buses].flatMap(strip),
    ...strip('mix'),
    ...insert('mix', 'limiter', { ceiling: -1 }),
    { do: 'faders.set', levels: ids.map((id) => ({ id, level: -12 })) }
  );
  return session;
}

/** CPU seconds of this process so far. */
export const cpu = (): number => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1e6;
};

/** A number after `--name`, or what stands otherwise. */
export const option = (name: string, otherwise: number): number => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? otherwise : Number(process.argv[at + 1]);
};

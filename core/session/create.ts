// How rows are created: what depends on more than a column's default.
import type { Channel, Send, Session, Settings } from './entities.ts';
import { creation } from './changes.ts';
import { newRow, tableNames, type Given } from './tables.ts';

/** Id of the mix bus in every session. */
export const MIX = 'mix';

/** Space between neighbours, so that halves can be taken many times before renumbering. */
export const POSITION_STEP = 1024;

export const emptySession = (): Session => Object.fromEntries(tableNames.map((table) => [table, new Map()])) as unknown as Session;

/** The same rows in tables of its own: what is done to the one is not done to the other. O(rows). */
export const copyOf = (session: Session): Session =>
  Object.fromEntries(tableNames.map((table) => [table, new Map<string, unknown>(session[table])])) as unknown as Session;

/** A session with its settings and mix bus and nothing else. */
export function newSession(settings: Partial<Settings> & { name: string }): Session {
  const session = emptySession();
  session.settings.set('settings', newRow('settings', settings));
  session.channel.set(MIX, {
    ...newChannel({ id: MIX, kind: 'mix', name: 'MIX', position: 0, born: 0, width: 2 }),
    outputPair: 0
  });
  return session;
}

/** A channel at unity, centred, going nowhere; a return is solo-safe. */
export const newChannel = (given: Given<'channel'>): Channel => newRow('channel', { soloSafe: given.kind === 'return', ...given });

/** A send at −∞: nothing changes until it is raised. Into a cue it is taken before the fader, so that players keep their balance. */
export const newSend = (sourceId: string, target: Channel): Send =>
  newRow('send', { sourceId, targetId: target.id, tap: target.kind === 'cue' ? 'pre' : 'post' });

/** First free order of birth. */
export const nextBorn = (session: Session): number => most(session, 'born') + 1;

/** The position after all channels. */
export const lastPosition = (session: Session): number => most(session, 'position') + POSITION_STEP;

function most(session: Session, field: 'born' | 'position'): number {
  let found = 0;
  for (const channel of session.channel.values()) found = Math.max(found, channel[field]);
  return found;
}

export const channelCreation = (channel: Channel) => creation('channel', channel.id, channel);

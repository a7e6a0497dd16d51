// Mute and solo: which edges are open, and what the page says of each channel. Monitoring only; prints pass `solo: false`.
import type { Session } from '../session/entities.ts';
import { settingsOf } from '../session/entities.ts';
import { edges, successors } from './graph.ts';

export type Heard = 'heard' | 'silent' | 'muted';

export type Audibility = {
  /** Whether a channel's main output is open, by id. */
  readonly outputOpen: (id: string) => boolean;
  /** Whether a send is open, apart from its own on/off. */
  readonly sendOpen: (sourceId: string, targetId: string) => boolean;
  /** What the page shows for a channel, and a sentence why. */
  readonly state: (id: string) => { readonly heard: Heard; readonly why: string };
};

/** Everything reachable from `seeds` along `next`, seeds included. */
function reach(seeds: Iterable<string>, next: Map<string, string[]>): Set<string> {
  const found = new Set(seeds);
  const queue = [...found];
  for (let head = 0; head < queue.length; head++)
    for (const there of next.get(queue[head]) ?? [])
      if (!found.has(there)) {
        found.add(there);
        queue.push(there);
      }
  return found;
}

const reversed = (list: ReturnType<typeof edges>) => successors(list.map(({ from, to, via }) => ({ from: to, to: from, via })));

/** The rule of the handbook: feeders and carriers of what is soloed; mutes close outputs and `post` sends. */
export function audibility(session: Session, options: { readonly solo: boolean } = { solo: true }): Audibility {
  const channels = session.channel;
  const soloed = options.solo ? [...channels.values()].filter((channel) => channel.solo) : [];
  const muteClosesPre = settingsOf(session).muteClosesPre;
  const mutedClosed = (sourceId: string, targetId: string) => {
    if (!channels.get(sourceId)?.mute) return false;
    return session.send.get(`${sourceId}\n${targetId}`)?.tap === 'post' || muteClosesPre;
  };

  if (soloed.length === 0)
    return {
      outputOpen: (id) => !channels.get(id)?.mute,
      sendOpen: (sourceId, targetId) => !mutedClosed(sourceId, targetId),
      state: (id) => (channels.get(id)?.mute ? { heard: 'muted', why: 'Muted' } : { heard: 'heard', why: '' })
    };

  const all = edges(session);
  const outputs = all.filter((edge) => edge.via === 'output');
  const safeReturns = new Set(
    [...channels.values()].filter((channel) => channel.kind === 'return' && channel.soloSafe).map((channel) => channel.id)
  );
  const safeSources = [...channels.values()].filter((channel) => channel.kind === 'track' && channel.soloSafe);
  const active = new Set([...soloed, ...safeSources].map((channel) => channel.id));
  const feeders = reach(active, reversed(all));
  const soloedBuses = soloed.filter((channel) => channel.kind !== 'track').map((channel) => channel.id);
  const inside = reach(soloedBuses, reversed(outputs));
  const carrying = successors(all.filter((edge) => edge.via === 'output' || safeReturns.has(edge.to)));
  const carriers = reach([...active, ...inside], carrying);
  const names = soloed.map((channel) => channel.name).join(', ');
  const are = soloed.length === 1 ? 'is' : 'are';

  const outputOpenBySolo = (id: string) => {
    const to = channels.get(id)?.outputId;
    return carriers.has(id) || (to != null && feeders.has(to));
  };
  return {
    outputOpen: (id) => !channels.get(id)?.mute && outputOpenBySolo(id),
    sendOpen: (sourceId, targetId) =>
      !mutedClosed(sourceId, targetId) && (feeders.has(targetId) || (carriers.has(sourceId) && safeReturns.has(targetId))),
    state: (id) => {
      const channel = channels.get(id);
      if (!channel) return { heard: 'silent', why: '' };
      if (channel.mute) return { heard: 'muted', why: 'Muted' };
      if (channel.solo) return { heard: 'heard', why: 'Soloed' };
      if (carriers.has(id) || feeders.has(id)) return { heard: 'heard', why: `Heard: ${names} ${are} soloed` };
      return { heard: 'silent', why: `Silent: ${names} ${are} soloed` };
    }
  };
}

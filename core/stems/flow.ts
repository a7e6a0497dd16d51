// Where sound is able to flow when the session is printed: which channels may carry a signal, along which edges. What is muted, resting,
// off or at −∞ for good carries none; what solo does is no matter here.
import { processors } from '../processors/index.ts';
import { printed } from '../routing/facts.ts';
import { edges, listed, topological, type Edge } from '../routing/graph.ts';
import { levelOf } from '../routing/level.ts';
import { sendId, type Channel, type Session } from '../session/entities.ts';
import { known } from '../session/facts.ts';
import { rowsBy } from '../session/lookup.ts';

export type Flow = {
  /** Channels that have sound of their own: recordings, pulses, noise of a processor. */
  readonly sources: ReadonlySet<string>;
  /** Audible edges by where they come from, and by where they lead. */
  readonly from: ReadonlyMap<string, readonly Edge[]>;
  readonly to: ReadonlyMap<string, readonly Edge[]>;
  /** Channel ids such that what feeds comes first. */
  readonly order: readonly string[];
};

/** Every audible edge of a session. `flowOf(session).to.get('mix')` is what can be heard coming into the mix bus. */
export function flowOf(session: Session): Flow {
  const open = known(session, printed);
  const awake = (id: string) => session.channel.get(id)?.resting === false;
  const makes = (id: string) => rowsBy(session, 'insert', 'channelId', id).some(({ type, bypass }) => !bypass && processors[type].makes);
  const played = ({ id, kind, pattern }: Channel) =>
    (kind === 'track' || kind === 'key') && (pattern !== null || rowsBy(session, 'clip', 'channelId', id).length > 0);
  const passes = ({ from, to, via }: Edge) => {
    if (!awake(from) || !awake(to)) return false;
    const source = session.channel.get(from)!;
    if (via === 'output') return open.outputGain(from) > 0 && levelOf(session, source) > -Infinity;
    const send = session.send.get(sendId(from, to))!;
    if (!send.on || send.levelDb === -Infinity || open.sendGain(from, to) === 0) return false;
    return send.tap !== 'post' || levelOf(session, source) > -Infinity;
  };
  const outgoing = new Map<string, Edge[]>();
  for (const edge of edges(session)) listed(outgoing, edge.from, edge);
  const order = topological(session);
  const [sources, fed] = [new Set<string>(), new Set<string>()];
  const [from, to] = [new Map<string, Edge[]>(), new Map<string, Edge[]>()];
  for (const id of order) {
    const channel = session.channel.get(id)!;
    const heard = channel.trimDb > -Infinity && (fed.has(id) || played(channel));
    if (channel.trimDb > -Infinity && played(channel)) sources.add(id);
    if (makes(id)) sources.add(id);
    if (!heard && !sources.has(id)) continue;
    for (const edge of outgoing.get(id) ?? []) {
      if (!passes(edge)) continue;
      listed(from, id, edge);
      listed(to, edge.to, edge);
      fed.add(edge.to);
    }
  }
  return { sources, from, to, order };
}

// Where sound is able to flow when the session is printed: which channels may carry a signal, along which edges. What is muted, resting,
// off or at −∞ all the time, lanes and all, carries none; what solo does is no matter here.
import { processors } from '../processors/index.ts';
import { listed, type Edge } from '../routing/graph.ts';
import { alwaysMuted, everLoud, everSent } from '../routing/overTime.ts';
import { settingsOf, type Channel, type Session } from '../session/entities.ts';
import { idsBy, rowsBy } from '../session/lookup.ts';
import { sounds } from '../session/vcas.ts';

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
  const { muteClosesPre } = settingsOf(session);
  const makes = (id: string) => rowsBy(session, 'insert', 'channelId', id).some(({ type, bypass }) => !bypass && processors[type].makes);
  const played = ({ id, kind, pattern }: Channel) =>
    (kind === 'track' || kind === 'key') && (pattern !== null || idsBy(session, 'clip', 'channelId', id).length > 0);
  // All edges that could carry something, by their sources; muted ones shut as prints have it, where solo is no matter.
  const outgoing = new Map<string, Edge[]>();
  const waiting = new Map<string, number>();
  const add = (edge: Edge) => {
    listed(outgoing, edge.from, edge);
    waiting.set(edge.to, (waiting.get(edge.to) ?? 0) + 1);
  };
  const awake = new Map<string, { readonly loud: boolean; readonly muted: boolean }>();
  for (const channel of session.channel.values())
    if (!channel.resting && sounds(channel))
      awake.set(channel.id, { loud: everLoud(session, channel), muted: alwaysMuted(session, channel) });
  for (const { id, outputId } of session.channel.values()) {
    const own = awake.get(id);
    if (own?.loud && !own.muted && outputId !== null && awake.has(outputId)) add({ from: id, to: outputId, via: 'output' });
  }
  for (const { sourceId, targetId, on, levelDb, tap } of session.send.values()) {
    const own = everSent(session, { sourceId, targetId, on, levelDb }) && awake.has(targetId) ? awake.get(sourceId) : undefined;
    if (!own || (tap === 'post' && (!own.loud || own.muted))) continue;
    if (own.muted && (muteClosesPre || session.channel.get(targetId)!.kind === 'cue')) continue;
    add({ from: sourceId, to: targetId, via: 'send' });
  }
  const ready = [...awake.keys()].filter((id) => !waiting.has(id));
  const [sources, fed, order] = [new Set<string>(), new Set<string>(), [] as string[]];
  const [from, to] = [new Map<string, readonly Edge[]>(), new Map<string, Edge[]>()];
  for (let head = 0; head < ready.length; head++) {
    const id = ready[head];
    order.push(id);
    const channel = session.channel.get(id)!;
    const open = channel.trimDb > -Infinity;
    if ((open && played(channel)) || makes(id)) sources.add(id);
    const carries = sources.has(id) || (open && fed.has(id));
    const own = outgoing.get(id) ?? [];
    if (carries && own.length) from.set(id, own);
    for (const edge of own) {
      const left = waiting.get(edge.to)! - 1;
      waiting.set(edge.to, left);
      if (left === 0) ready.push(edge.to);
      if (!carries) continue;
      listed(to, edge.to, edge);
      fed.add(edge.to);
    }
  }
  return { sources, from, to, order };
}

// The mix chain alone, fed by what was printed: what the second proof renders. What comes in comes as late as it did in the mix, so that
// periods, noise and fades agree and the same bits have to come out.
import { createEngine, type Pcm } from '../engine/engine.ts';
import type { KernelModule } from '../kernel/kernel.ts';
import { chainOf } from '../routing/chain.ts';
import { mixChain } from '../routing/graph.ts';
import { MIX, newChannel } from '../session/create.ts';
import type { Clip, Insert, Session, Tap } from '../session/entities.ts';
import { newRow } from '../session/tables.ts';
import type { Frames } from '../units.ts';
import type { PlannedFile, PrintKind } from './order.ts';
import { copyChain, draftAbove, type ChainOf, type Pass } from './passes.ts';

/** Media id of what is fed into the chain; those of keys are their channels' ids and taps. */
export const SUM = '~sum';
export const keyName = (id: string, tap: Tap): string => `~key ${id} ${tap}`;

/** Inserts of the chain that listen to something outside it. */
const keyed = (session: Session, chain: ReadonlySet<string>): Insert[] =>
  [...session.insert.values()].filter(({ channelId, keyId }) => chain.has(channelId) && keyId !== null && !chain.has(keyId));

const KINDS: Readonly<Record<Tap, PrintKind>> = { input: 'dry', pre: 'raw', post: 'bus' };

/** What the chain is keyed by from outside, as files: they are printed with the stems, since the stems without them are not the mix. */
export function keyFiles(session: Session): PlannedFile[] {
  const found = new Map<string, PlannedFile>();
  for (const { keyId, keyTap } of keyed(session, chainOf(session))) {
    const channel = session.channel.get(keyId!);
    if (channel && !channel.resting)
      found.set(`${keyId} ${keyTap}`, { kind: KINDS[keyTap], id: channel.id, name: `${channel.name} (key)`, tap: keyTap });
  }
  return [...found.values()];
}

/** A session of the chain and what feeds it, `frames` long, and where its output is taken. */
export function chainAlone(session: Session, version: ChainOf, frames: Frames): Pass {
  const chain = chainOf(session);
  const draft = draftAbove(session, chain);
  copyChain(session, draft, chain, version, '');
  const clip = new Map<string, Clip>();
  const plays = (id: string, outputId: string | null) => {
    draft.channel.set(id, newChannel({ id, kind: 'track', name: id, position: 0, born: 0, width: 2, outputId }));
    clip.set(id, newRow('clip', { id, channelId: id, mediaId: id, length: frames }));
  };
  plays(SUM, MIX);
  for (const { id, keyId, keyTap } of keyed(session, chain)) {
    const name = keyName(keyId!, keyTap);
    if (session.channel.get(keyId!)?.resting === false) plays(name, null);
    draft.insert.set(id, { ...draft.insert.get(id)!, keyId: name, keyTap: 'input' });
  }
  const last = mixChain(session).at(-1)!.id;
  // What plays into it leaves by the interface, so that nothing is left out of the plan.
  return { session: { ...session, ...draft, clip, media: new Map() }, outlets: [{ file: 0, id: last, tap: 'post' }] };
}

/** Frames by which what is fed into the chain alone has to wait, so that it comes as late as in the pass that was printed. */
export function waitOf(module: KernelModule, printed: Pass, alone: Pass, outlet: string): Frames {
  const silent: Pcm = () => {};
  const latency = ({ session }: Pass, id: string) => createEngine({ module, session, pcm: silent, solo: false }).latency(id);
  return latency(printed, outlet) - latency(alone, alone.outlets[0].id);
}

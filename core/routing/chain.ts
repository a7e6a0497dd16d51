// The mix chain: the mix bus and all that it reaches along audio edges, sends too. Stems end where it begins.
import { MIX } from '../session/create.ts';
import type { Session } from '../session/entities.ts';
import { edgesOf, reach } from './graph.ts';

/** Ids of the mix bus and of all that its sound reaches; cues, which only players hear, are none of it. */
export const chainOf = (session: Session): ReadonlySet<string> =>
  reach([MIX], (id) => edgesOf(session, id).flatMap(({ to }) => (session.channel.get(to)?.kind === 'cue' ? [] : [to])));

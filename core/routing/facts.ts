// What is worked out of a session once a revision and asked for by page, server and command line: `known(session, tree)`.
import { fact } from '../session/facts.ts';
import { rowsBy } from '../session/lookup.ts';
import { audibility } from './audibility.ts';
import { treeOf } from './graph.ts';

/** The session as a tree by main outputs. */
export const tree = fact(['rows'], treeOf);
/** Who is heard while one listens: mutes and solo; and in prints, where solo does not count. */
export const heard = fact(['routing'], (session) => audibility(session));
export const printed = fact(['routing'], (session) => audibility(session, { solo: false }));
/** All channels in the order in which they were made. */
export const byBirth = fact(['rows'], (session) => [...session.channel.values()].sort((a, b) => a.born - b.born));
/** Returns and cues in the order of their columns, hidden ones left out. */
export const columns = fact(['rows'], (session) =>
  (['return', 'cue'] as const)
    .flatMap((kind) => rowsBy(session, 'channel', 'kind', kind))
    .filter(({ columnHidden }) => !columnHidden)
    .sort((a, b) => a.column - b.column || Number(a.kind === 'cue') - Number(b.kind === 'cue') || a.position - b.position)
);
/** VCAs and link groups in the order of the session. */
export const vcas = fact(['rows'], (session) =>
  rowsBy(session, 'channel', 'kind', 'vca').sort((a, b) => a.position - b.position || a.born - b.born)
);
export const links = fact(['groups'], (session) => [...session.link.values()].sort((a, b) => a.position - b.position));
/** The rows of the pinned section, in the order of the session. */
export const pinned = fact(['rows'], (session) => rowsBy(session, 'channel', 'pinned', true).sort((a, b) => a.position - b.position));

// Pouring audio into a template: which file belongs to which waiting track, by name and role; what is left on both sides.
import { alone } from '../commands/alone.ts';
import type { Command } from '../commands/index.ts';
import type { NewTrack } from '../commands/intake.ts';
import type { Channel, Session } from '../session/entities.ts';
import { idsBy } from '../session/lookup.ts';
import { inOrder } from '../session/select.ts';
import { spelled } from './defaultRules.ts';
import { matching } from './roleOf.ts';
import type { RuleBook } from './ruleBook.ts';
import { namePartsOf } from './words.ts';

export type Empties = 'rest' | 'hide' | 'drop' | 'keep';
export type Poured = {
  /** What each recording would be as a new track, and the waiting track it goes into; null makes the new one. */
  readonly files: readonly { readonly track: NewTrack; readonly into: string | null; readonly chosen: boolean }[];
  /** Waiting tracks that get nothing. */
  readonly empty: readonly string[];
  readonly commands: Command[];
};

/** Tracks without recordings, in order. */
export function waitingTracks(session: Session): Channel[] {
  return inOrder(session).filter(({ id, kind }) => kind === 'track' && idsBy(session, 'clip', 'channelId', id).length === 0);
}

const LEAST = 1;

/** `chosen` says of a file, by its place, which track it goes into: an id, or '' for a new track. */
export function pourPlan(
  session: Session,
  tracks: readonly NewTrack[],
  {
    book,
    chosen = {},
    empties,
    start
  }: {
    readonly book: RuleBook;
    readonly chosen?: Readonly<Record<number, string>>;
    readonly empties: Empties;
    /** Where each new track stands on the timeline, frames. */
    readonly start: (track: NewTrack) => number;
  }
): Poured {
  const waiting = waitingTracks(session);
  const match = matching(book.rules);
  const free = new Set(waiting.map(({ id }) => id));
  const into = new Map<number, string | null>();
  for (const [i, id] of Object.entries(chosen)) {
    const wanted = free.delete(id) ? id : null;
    into.set(Number(i), wanted);
  }
  const scores = tracks.flatMap((track, i) => {
    if (into.has(i)) return [];
    const role = match(track.media.name).rule?.role ?? '';
    return waiting.map((channel) => ({ i, id: channel.id, score: likeness(track.name, role, channel) }));
  });
  for (const { i, id, score } of scores.toSorted((a, b) => b.score - a.score)) {
    if (score < LEAST) break;
    if (into.has(i) || !free.has(id)) continue;
    into.set(i, id);
    free.delete(id);
  }
  const files = tracks.map((track, i) => ({ track, into: into.get(i) ?? null, chosen: Object.hasOwn(chosen, i) }));
  const empty = waiting.flatMap(({ id }) => (free.has(id) ? [id] : []));
  return { files, empty, commands: commandsFor(files, empty, empties, start) };
}

/** How much a file's name and role are those of a waiting track: words shared count most; a wrong side or number counts against. */
function likeness(name: string, role: string, channel: Channel): number {
  const words = (text: string) => {
    const { tokens, side, clean } = namePartsOf(text);
    const spoken = clean
      .toLowerCase()
      .split(' ')
      .flatMap((word) => (spelled(word) ?? word).toLowerCase().split(' '));
    const numbers = spoken.filter((word) => /^\d+$/.test(word));
    return { side, numbers, words: new Set([...spoken, ...tokens].filter((word) => word.length > 1 && !/^\d+$/.test(word))) };
  };
  const [file, row] = [words(name), words(channel.name)];
  const shared = [...row.words].filter((word) => file.words.has(word)).length;
  const same = role !== '' && role === channel.role;
  if (shared === 0 && !same) return 0;
  const agree = (a: string | null | undefined, b: string | null | undefined) => (a && b ? (a === b ? 0.5 : -1.5) : a || b ? -0.1 : 0);
  return (3 * shared) / Math.max(1, row.words.size) + (same ? 1 : 0) + agree(file.side, row.side) + agree(file.numbers[0], row.numbers[0]);
}

function commandsFor(files: Poured['files'], empty: readonly string[], empties: Empties, start: (track: NewTrack) => number): Command[] {
  const filled = files.flatMap(({ track, into }) => {
    const { media, channel, width } = track;
    return into === null
      ? []
      : [{ id: into, media, start: start(track), ...(channel === undefined ? {} : { channel }), ...(width ? { width } : {}) }];
  });
  const fresh = files.flatMap(({ track, into }) => (into === null ? [{ ...track, start: start(track) }] : []));
  const commands: Command[] = [
    { do: 'batch.name', text: `Pour ${files.length} recording${files.length === 1 ? '' : 's'} into the template` }
  ];
  if (filled.length) commands.push({ do: 'tracks.fill', tracks: filled });
  if (fresh.length) commands.push({ do: 'tracks.add', tracks: fresh });
  const ids = [...empty];
  if (ids.length && empties === 'rest') commands.push({ do: 'rests.set', ids, on: true });
  if (ids.length && empties === 'hide') commands.push({ do: 'hides.set', ids, on: true });
  if (ids.length && empties === 'drop') commands.push({ do: 'channels.remove', ids });
  return files.length ? alone(commands) : [];
}

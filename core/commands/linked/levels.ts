// Faders over link groups: set ones and moved ones.
import { followers, type Follower } from '../../links/follow.ts';
import { followedLevel, movedLevel, neverHad, type Level, type Move } from '../../links/relative.ts';
import type { Session } from '../../session/entities.ts';
import { clampDb, type Db } from '../../units.ts';
import type { Expansion, Step } from '../define.ts';

export type Anchors = Readonly<Record<string, Db>> | undefined;
export type MoveArgs = { readonly by?: number; readonly lead?: { readonly from: number; readonly was: number; readonly to: number } };
/** The move that arguments mean, which have been checked to hold one. */
export const moveOf = ({ by, lead }: MoveArgs): Move => (lead ? { lead } : { by: by! });

export const faderOf = (session: Session, id: string): Level => {
  const channel = session.channel.get(id);
  return { level: channel?.faderDb ?? 0, last: channel?.lastDb ?? null };
};

export function linkedFaders(session: Session, { levels }: { readonly levels: readonly { id: string; level: Db }[] }): Expansion | null {
  const asked = new Map(levels.map(({ id, level }) => [id, clampDb(level)]));
  const found = followers(session, asked.keys(), 'level');
  if (found.length === 0) return null;
  const moved = found.map(({ id, lead, alike }) => {
    const to = asked.get(lead)!;
    return { id, level: alike ? to : followedLevel(faderOf(session, id), faderOf(session, lead), to) };
  });
  return { steps: [{ do: 'faders.set', levels: [...levels, ...moved], linked: true }], followers: found.length };
}

/** Of levels that follow a move: those that move with it, and those that are set to what the moved one becomes. */
export function sorted(
  found: readonly Follower[],
  move: Move,
  anchorOf: (id: string) => Db | undefined,
  levelOf: (id: string) => Level
): { readonly moving: string[]; readonly set: { readonly id: string; readonly level: Db }[] } {
  const moving: string[] = [];
  const set: { id: string; level: Db }[] = [];
  for (const { id, lead, alike } of found) {
    const now = levelOf(id);
    const anchor = anchorOf(id);
    const to = movedLevel(levelOf(lead), anchorOf(lead), move);
    const taking = anchor === undefined ? neverHad(now) : anchor === -Infinity && now.last === null;
    if (alike || (taking && to > -Infinity && to !== levelOf(lead).level)) set.push({ id, level: to });
    else if (!('lead' in move) || move.lead.from > -Infinity || move.lead.to === -Infinity) moving.push(id);
  }
  return { moving, set };
}

export function linkedFaderMove(
  session: Session,
  args: MoveArgs & { readonly ids: readonly string[]; readonly anchors?: Anchors }
): Expansion | null {
  const found = followers(session, args.ids, 'level');
  if (found.length === 0) return null;
  const anchorOf = (id: string) => args.anchors?.[id];
  const { moving, set } = sorted(found, moveOf(args), anchorOf, (id) => faderOf(session, id));
  const steps: Step[] = [{ ...args, do: 'faders.move', ids: [...args.ids, ...moving], linked: true }];
  if (set.length) steps.push({ do: 'faders.set', levels: set, linked: true });
  return { steps, followers: found.length };
}

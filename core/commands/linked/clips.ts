// Edits of clips over link groups: members are cut, moved and faded at the same frames. One that has no clip there is left alone, and said.
import { followers } from '../../links/follow.ts';
import { pieceAt, tracksOf } from '../../clips/edit.ts';
import { meeting, pairsOf } from '../../clips/edits.ts';
import { layOf } from '../../clips/lay.ts';
import type { Attribute, Clip, Session } from '../../session/entities.ts';
import { clipEnd } from '../../session/joints.ts';
import { clipsWithin } from '../../session/timeline.ts';
import type { Frames } from '../../units.ts';
import type { Expansion, Step } from '../define.ts';

type Range = { readonly from: Frames; readonly to: Frames };
type Members = { readonly id: string; readonly lead: string }[];
type Edit = 'cuts' | 'moves' | 'fades';

const named = (session: Session, ids: readonly string[]) => ids.flatMap((id) => session.clip.get(id) ?? []);
const membersOf = (session: Session, channels: readonly string[], attribute: Edit): Members =>
  followers(session, channels, attribute satisfies Attribute);

/** What is said of members that have nothing where an edit acts. */
const leftAlone = (session: Session, ids: readonly string[]): string | undefined =>
  ids.length ? `${ids.map((id) => session.channel.get(id)!.name).join(', ')} had nothing there` : undefined;

/** An expansion, or null where no member takes part: then only what is said of them is lost. */
const expansion = (session: Session, steps: readonly Step[], members: Members, taking: ReadonlySet<string>): Expansion | null =>
  members.length === 0
    ? null
    : {
        steps,
        followers: taking.size,
        word: leftAlone(
          session,
          members.flatMap(({ id }) => (taking.has(id) ? [] : [id]))
        )
      };

/** Ranges of clips by their tracks. */
const rangesOf = (clips: readonly Clip[], channelId: string): Range[] =>
  clips.flatMap((clip) => (clip.channelId === channelId ? [{ from: clip.start, to: clipEnd(clip) }] : []));

/** Members' clips that an edit of clips at certain frames acts on, by member. */
function alongside(session: Session, clips: readonly Clip[], members: Members, same: (lead: Clip, own: Clip) => boolean) {
  const found: Clip[] = [];
  for (const { id, lead } of members)
    for (const of of clips.filter(({ channelId }) => channelId === lead))
      // An edge may lie where the next clip begins: one frame on either side.
      for (const own of clipsWithin(session, id, of.start - 1, clipEnd(of) + 1)) if (same(of, own) && !found.includes(own)) found.push(own);
  return found;
}

type At = { readonly ids?: readonly string[]; readonly channels?: readonly string[]; readonly at: Frames };
export function linkedCut(session: Session, args: At): Expansion | null {
  const clips = named(session, args.ids ?? []);
  const members = membersOf(session, args.channels ?? tracksOf(clips), 'cuts');
  if (!members.length) return null;
  const found = members.flatMap(({ id }) =>
    clipsWithin(session, id, args.at - 1, args.at + 1).flatMap((clip) => pieceAt(session, clip, args.at) ?? [])
  );
  const ids = [...new Set([...(args.ids ?? []), ...found.map(({ id }) => id)])];
  return expansion(session, [{ ...args, do: 'clips.cut', ids }], members, new Set(tracksOf(found)));
}

type Removal = {
  readonly ids?: readonly string[];
  readonly channels?: readonly string[];
  readonly from?: Frames;
  readonly to?: Frames;
  readonly ranges?: readonly Range[];
};
export function linkedRemove(session: Session, args: Removal): Expansion | null {
  const clips = named(session, args.ids ?? []);
  const members = membersOf(session, args.channels ?? tracksOf(clips), 'cuts');
  const given = args.ranges ?? (args.from !== undefined && args.to !== undefined ? [{ from: args.from, to: args.to }] : []);
  const steps: Step[] = [{ ...args, do: 'clips.remove' }];
  const taking = new Set<string>();
  for (const { id, lead } of members) {
    const ranges = (args.channels ? given : rangesOf(clips, lead)).filter(({ from, to }) => clipsWithin(session, id, from, to).length);
    if (!ranges.length) continue;
    steps.push({ do: 'clips.remove', channels: [id], ranges });
    taking.add(id);
  }
  return expansion(session, steps, members, taking);
}

type Shift = {
  readonly ids?: readonly string[];
  readonly channels?: readonly string[];
  readonly ranges?: readonly Range[];
  readonly by: Frames;
};
export function linkedShift(name: 'clips.move' | 'clips.duplicate') {
  return (session: Session, args: Shift & { readonly as?: string }): Expansion | null => {
    const clips = named(session, args.ids ?? []);
    const members = membersOf(session, args.channels ?? tracksOf(clips), 'moves');
    const steps: Step[] = [{ ...args, do: name }];
    const taking = new Set<string>();
    for (const { id, lead } of members) {
      const ranges = (args.ranges ?? rangesOf(clips, lead)).filter(({ from, to }) => clipsWithin(session, id, from, to).length);
      if (!ranges.length) continue;
      taking.add(id);
      steps.push({ do: name, channels: [id], ranges, by: args.by, ...(args.as === undefined ? {} : { as: args.as }) });
    }
    return expansion(session, steps, members, taking);
  };
}

type Trim = { readonly ids: readonly string[]; readonly start?: Frames; readonly end?: Frames };
export function linkedTrim(session: Session, args: Trim): Expansion | null {
  const clips = named(session, args.ids);
  const members = membersOf(session, tracksOf(clips), 'cuts');
  if (!members.length) return null;
  const { ids, start, end } = args;
  const first = start === undefined ? [] : alongside(session, clips, members, (lead, own) => own.start === lead.start);
  const last = end === undefined ? [] : alongside(session, clips, members, (lead, own) => clipEnd(own) === clipEnd(lead));
  // Edges at different places of one member go by themselves; the tightest of each stops all.
  const both = first.filter((clip) => last.includes(clip));
  const idsOf = (list: readonly Clip[]) => list.map(({ id }) => id);
  const onlyFirst = first.filter((clip) => !both.includes(clip));
  const onlyLast = last.filter((clip) => !both.includes(clip));
  const steps: Step[] =
    onlyFirst.length + onlyLast.length === 0 || start === undefined || end === undefined
      ? [{ ...args, do: 'clips.trim', ids: [...ids, ...idsOf([...new Set([...first, ...last])])] }]
      : [
          { do: 'clips.trim', ids: [...ids, ...idsOf(first)], start },
          { do: 'clips.trim', ids: [...ids, ...idsOf(last)], end }
        ];
  return expansion(session, steps, members, new Set(tracksOf([...first, ...last])));
}

type Fade = { readonly ids: readonly string[]; readonly in?: object; readonly out?: object };
export function linkedFade(session: Session, args: Fade): Expansion | null {
  const clips = named(session, args.ids);
  const members = membersOf(session, tracksOf(clips), 'fades');
  if (!members.length) return null;
  const first = args.in ? alongside(session, clips, members, (lead, own) => own.start === lead.start) : [];
  const last = args.out ? alongside(session, clips, members, (lead, own) => clipEnd(own) === clipEnd(lead)) : [];
  const steps: Step[] = [{ ...args, do: 'clips.fade' }];
  if (first.length) steps.push({ do: 'clips.fade', ids: first.map(({ id }) => id), in: args.in });
  if (last.length) steps.push({ do: 'clips.fade', ids: last.map(({ id }) => id), out: args.out });
  return expansion(session, steps, members, new Set(tracksOf([...first, ...last])));
}

/** Edits of places where two clips meet: joining, and reuniting. */
export function linkedMeeting(name: 'clips.join' | 'clips.reunite', attribute: Edit) {
  return (session: Session, args: { readonly ids: readonly string[] }): Expansion | null => {
    const clips = named(session, args.ids);
    const members = membersOf(session, tracksOf(clips), attribute);
    if (!members.length) return null;
    const pairs = pairsOf(layOf(session, tracksOf(clips)), clips);
    const taking = new Set<string>();
    const steps: Step[] = [{ ...args, do: name }];
    for (const { id, lead } of members)
      for (const [a, b] of pairs) {
        if (a.channelId !== lead) continue;
        const at = meeting(a, b)!;
        const own = clipsWithin(session, id, at - 1, at + 1);
        const pair = pairsOf(layOf(session, [id]), own).find(([one, other]) => meeting(one, other) === at);
        if (!pair) continue;
        taking.add(id);
        steps.push({ ...args, do: name, ids: pair.map((clip) => clip.id) });
      }
    return expansion(session, steps, members, taking);
  };
}

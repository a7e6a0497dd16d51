// Printed stems as a session of their own: each a track at unity in a bus that is the stem, into a copy of the mix chain, so that its mix
// is the mix and versions can be made of it.
import { chainOf } from '../routing/chain.ts';
import { refuse, ok, type Result } from '../result.ts';
import { MIX, newChannel } from '../session/create.ts';
import { settingsOf, type Clip, type Media, type Session } from '../session/entities.ts';
import { endOf } from '../session/select.ts';
import { newRow } from '../session/tables.ts';
import { emptySession } from '../session/create.ts';
import { stemsOf } from '../stems/soundness.ts';
import type { Frames } from '../units.ts';
import { keyFiles } from './chainAlone.ts';
import { ownPass, type PrintKind } from './order.ts';
import { AS_MIXED, copyChain, draftAbove } from './passes.ts';

/** A file that the session needs, and the track that plays it. */
export type Feed = { readonly kind: PrintKind; readonly id: string; readonly name: string; readonly track: string };
export type Onward = {
  readonly session: Session;
  readonly feeds: readonly Feed[];
  /** Where what was printed ended, without its tail: there a fade-out ends. */
  readonly end: Frames;
};

/** All of such a session but its recordings, as it is when the stems are printed. */
export function onwardOf(session: Session): Onward {
  const chain = chainOf(session);
  const draft = draftAbove(session, chain);
  copyChain(session, draft, chain, AS_MIXED, '');
  for (const id of chain) draft.channel.set(id, { ...draft.channel.get(id)!, outputPair: session.channel.get(id)!.outputPair });
  const feeds: Feed[] = [];
  const plays = (kind: PrintKind, of: string, name: string, track: string, outputId: string | null) => {
    const { position, born, colour } = session.channel.get(of)!;
    // Behind its bus, and born after everything: what is summed keeps its order.
    draft.channel.set(track, { ...newChannel({ id: track, kind: 'track', name, position, born: born + 1e6, width: 2, outputId }), colour });
    feeds.push({ kind, id: of, name, track });
  };
  for (const { id, name, colour, position, born, common } of stemsOf(session)) {
    draft.channel.set(id, {
      ...newChannel({ id, kind: 'bus', name, position, born, width: 2, outputId: MIX }),
      colour,
      stem: true,
      common
    });
    plays('stem', id, name, trackOf(id, 'print'), id);
  }
  for (const { kind, id, name, tap } of keyFiles(session)) {
    plays(kind, id, name, trackOf(id, tap), null);
    for (const [insertId, insert] of draft.insert)
      if (insert.keyId === id && insert.keyTap === tap) draft.insert.set(insertId, { ...insert, keyId: trackOf(id, tap), keyTap: 'input' });
  }
  const known = (id: string) => draft.channel.has(id);
  // A key that sounds no more hears nothing, as in the mix.
  for (const [id, insert] of draft.insert)
    if (insert.keyId !== null && !known(insert.keyId)) draft.insert.set(id, { ...insert, keyId: null });
  const version = new Map([...session.version].filter(([, each]) => !ownPass(each)));
  return { session: { ...emptySession(), settings: new Map(session.settings), ...draft, version }, feeds, end: endOf(session) };
}

const trackOf = (id: string, what: string) => `${id.slice(0, 70)}:${what}`;

/** A recording of a feed, and where on the timeline it begins. */
export type Fed = { readonly feed: Feed; readonly media: Media; readonly start: Frames };

/** The session with its recordings. Refused where a file is missing or of another rate. */
export function stemSession({ session, feeds, end }: Onward, fed: readonly Fed[], name: string): Result<Session> {
  const missing = feeds.find((feed) => !fed.some((each) => each.feed === feed));
  if (missing) return refuse('missing', `The print lacks ${missing.name}: print all stems, then open them.`);
  const { rate, fadeOut } = settingsOf(session);
  const other = fed.find(({ media }) => media.rate !== rate);
  if (other)
    return refuse(
      'rate',
      `${other.feed.name} has ${other.media.rate} Hz and the chain ${rate} Hz. Print the stems at the session’s own rate.`
    );
  const clip = new Map<string, Clip>();
  const put = (row: Clip) => clip.set(row.id, row);
  for (const [i, { feed, media, start }] of fed.entries()) {
    // Where the next range begins what is left of this one is in that one too.
    const next = Math.min(...fed.flatMap((other) => (other.feed === feed && other.start > start ? [other.start] : [])));
    // Behind a fade-out nothing is heard, and it has to end where it did.
    const length = Math.max(1, Math.min(media.frames, next - start, fadeOut > 0 ? end - start : Infinity));
    const clipOf = (side: Clip['side']) =>
      put(
        newRow('clip', {
          id: `${feed.track.slice(0, 70)}:${i + 1}${side === 'both' ? '' : side}`,
          channelId: feed.track,
          mediaId: media.id,
          start,
          length,
          side
        })
      );
    // One channel stands for two that are the same: at unity on either side, whatever the pan law.
    if (media.channels === 2) clipOf('both');
    else for (const side of ['left', 'right'] as const) clipOf(side);
  }
  const settings = new Map([['settings', { ...settingsOf(session), name }]]);
  return ok({ ...session, settings, clip, media: new Map(fed.map(({ media }) => [media.id, media])) });
}

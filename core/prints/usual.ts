// What versions a session of these stems usually delivers, and quick fills of a version: which stems are in.
import { chainOf } from '../routing/chain.ts';
import { branchOf, mixChain } from '../routing/graph.ts';
import type { Channel, Session, Version, Written } from '../session/entities.ts';
import { known } from '../session/facts.ts';
import { insertsOf } from '../session/select.ts';
import { AS_MIXED } from './passes.ts';
import { shares } from '../stems/shares.ts';
import { stemsOf } from '../stems/soundness.ts';

export type Parts = Pick<Version, 'stems' | 'inserts' | 'fader' | 'fades' | 'channels'>;
/** A version that is the mix. */
export const AS_THE_MIX: Parts = { ...AS_MIXED, stems: {}, channels: [] };

export type Usual = {
  readonly name: string;
  readonly parts: Parts;
  /** What it is for, or why it cannot be made of this session, in a sentence. */
  readonly why: string;
  /** Whether the session has what it takes. */
  readonly fits: boolean;
  /** The version that is the same already. */
  readonly there: Version | null;
};

const VOICES: ReadonlySet<string> = new Set(['choir', 'backing', 'voice', 'speech']);
const PERCUSSION: ReadonlySet<string> = new Set(['drum', 'percussion']);

const levels = (out: readonly string[]): Readonly<Record<string, Written>> => Object.fromEntries(out.map((id) => [id, '-inf' as const]));

/** Stems as they are where only these are in, besides what others have a part in: a common stem goes with those that feed it. */
export function onlyStems(session: Session, wanted: ReadonlySet<string>): Readonly<Record<string, Written>> {
  return levels(stemsOf(session).flatMap(({ id }) => (wanted.has(id) || follows(session, id, wanted) ? [] : [id])));
}

/** Stems as they are without these; a common stem that only they feed goes with them. */
export function withoutStems(session: Session, unwanted: ReadonlySet<string>): Readonly<Record<string, Written>> {
  return levels(
    stemsOf(session).flatMap(({ id }) => {
      const feeders = feedersOf(session, id);
      return unwanted.has(id) || (feeders.length > 0 && feeders.every((each) => unwanted.has(each))) ? [id] : [];
    })
  );
}

/** Stems whose tracks have a part in a common one that has no tracks of its own. */
function feedersOf(session: Session, common: string): string[] {
  if (!session.channel.get(common)?.common || tracksIn(session, common).length > 0) return [];
  return [...known(session, shares)].flatMap(([id, others]) => (others.includes(common) ? [id] : []));
}
const follows = (session: Session, id: string, wanted: ReadonlySet<string>) => feedersOf(session, id).some((each) => wanted.has(each));

const tracksIn = (session: Session, id: string): Channel[] =>
  branchOf(session, id)
    .map((each) => session.channel.get(each)!)
    .filter(({ kind, resting }) => kind === 'track' && !resting);

/** Stems most of whose tracks are one of these in the music. */
const stemsFor = (session: Session, roles: ReadonlySet<string>): string[] =>
  stemsOf(session).flatMap(({ id }) => {
    const tracks = tracksIn(session, id);
    const own = tracks.filter(({ role }) => roles.has(role));
    return own.length * 2 > tracks.length ? [id] : [];
  });

/** The versions that are usual, in their order, those included that this session cannot give. `usualVersions(session)[1].name` → `'Instrumental'` */
export function usualVersions(session: Session): Usual[] {
  const stems = stemsOf(session);
  const voices = stemsFor(session, VOICES);
  const percussion = stemsFor(session, PERCUSSION);
  const names = (ids: readonly string[]) => ids.map((id) => session.channel.get(id)!.name).join(', ');
  const tracks = stems.flatMap(({ id }) => tracksIn(session, id));
  const lead = tracks.filter(({ role }) => role === 'voice');
  const limiter = mixChain(session)
    .flatMap(({ id }) => insertsOf(session, id))
    .filter(({ type, bypass }) => type === 'limiter' && !bypass)
    .at(-1);
  const sung = voices.length > 0 && voices.length < stems.length;
  const noVoices = voices.length ? 'All stems are voices.' : 'No stem is mostly voices: give the tracks their roles in the Roster.';
  const apart = new Set(voices);
  const leadStem = voices.find((id) => lead.length > 0 && tracksIn(session, id).length === lead.length && sameTracks(session, id, lead));
  const usual = (name: string, fits: boolean, why: string, otherwise: string, parts: () => Partial<Parts>): Usual => {
    const whole = fits ? { ...AS_THE_MIX, ...parts() } : AS_THE_MIX;
    const there = fits ? [...session.version.values()].find((version) => sameParts(session, version, whole)) : undefined;
    return { name, parts: whole, why: fits ? why : otherwise, fits, there: there ?? null };
  };
  const by = (level: number) => ({ stems: Object.fromEntries(voices.map((id) => [id, level])) });
  return [
    usual('Mix', true, 'As it is.', '', () => ({})),
    usual('Instrumental', sung, `Without ${names(voices)}.`, noVoices, () => ({ stems: withoutStems(session, apart) })),
    usual('Voices only', sung, `${names(voices)} and what they feed.`, noVoices, () => ({ stems: onlyStems(session, apart) })),
    usual('Voices +1', sung, `${names(voices)} 1 dB up.`, noVoices, () => by(1)),
    usual('Voices −1', sung, `${names(voices)} 1 dB down.`, noVoices, () => by(-1)),
    usual(
      'Without lead',
      lead.length > 0 && lead.length < tracks.length,
      leadStem ? `Without ${names([leadStem])}.` : `${names(lead.map(({ id }) => id))} muted; a pass of its own.`,
      lead.length ? 'Every track is a lead voice.' : 'No track has the role of a lead voice.',
      () => (leadStem ? { stems: levels([leadStem]) } : { channels: lead.map(({ id }) => ({ id, mute: true })) })
    ),
    usual(
      'Percussion only',
      percussion.length > 0 && percussion.length < stems.length,
      `${names(percussion)} and what they feed.`,
      percussion.length ? 'All stems are percussion.' : 'No stem is mostly drums or percussion.',
      () => ({ stems: onlyStems(session, new Set(percussion)) })
    ),
    usual(
      'Without the last limiter',
      limiter !== undefined,
      limiter ? `The limiter on ${session.channel.get(limiter.channelId)!.name} off.` : '',
      'No limiter is at work in the mix chain.',
      () => ({ inserts: { [limiter!.id]: false } })
    )
  ];
}

const sameTracks = (session: Session, id: string, lead: readonly Channel[]) =>
  tracksIn(session, id).every((track) => lead.some((each) => each.id === track.id));

/** What a version does, written such that two which sound alike are the same text. */
function keyOf(session: Session, { stems, inserts, fader, fades, channels }: Parts): string {
  const chain = chainOf(session);
  return JSON.stringify([
    Object.entries(stems)
      .filter(([id, level]) => level !== 0 && session.channel.get(id)?.stem)
      .sort(),
    Object.entries(inserts)
      .filter(([id, on]) => {
        const insert = session.insert.get(id);
        return insert && chain.has(insert.channelId) && insert.bypass === on;
      })
      .sort(),
    fader,
    fades,
    channels
      .flatMap(({ id, by, mute }) => {
        const channel = session.channel.get(id);
        const moved = by !== undefined && by !== 0 ? by : null;
        const turned = mute !== undefined && mute !== channel?.mute ? mute : null;
        return channel && (moved !== null || turned !== null) ? [[id, moved, turned]] : [];
      })
      .sort()
  ]);
}

const sameParts = (session: Session, a: Parts, b: Parts): boolean => keyOf(session, a) === keyOf(session, b);

/** Versions that sound as another, or as the mix: by id, the names of those that come before it, "the mix" first. */
export function alikes(session: Session): ReadonlyMap<string, readonly string[]> {
  const names = new Map<string, string[]>([[keyOf(session, AS_THE_MIX), ['the mix']]]);
  const found = new Map<string, readonly string[]>();
  for (const version of [...session.version.values()].sort((a, b) => a.position - b.position)) {
    const key = keyOf(session, version);
    const before = names.get(key) ?? [];
    if (before.length) found.set(version.id, [...before]);
    names.set(key, [...before, version.name]);
  }
  return found;
}

// The command that brings recordings into the session as tracks.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { creation, update, type Change } from '../session/changes.ts';
import { newChannel, channelCreation, lastPosition, MIX, nextBorn, POSITION_STEP } from '../session/create.ts';
import { DAY_S } from '../session/check.ts';
import { settingsOf, type Channel, type Media, type Session } from '../session/entities.ts';
import { newRow } from '../session/tables.ts';
import { define, hue, id, level, name, newId, text, whole } from './define.ts';
import { field } from './field.ts';
import { notInto } from './routing.ts';

/** A recording as `media.add` describes it; a field that is not known here could not be kept. */
export const mediaFields = yup.object({
  id: id().required(),
  name: field('media', 'name').required(),
  sha256: field('media', 'sha256').required(),
  rate: field('media', 'rate').required(),
  channels: field('media', 'channels').required(),
  frames: field('media', 'frames').required(),
  encoding: field('media', 'encoding').required(),
  peakDb: level().max(10_000).required(),
  origin: yup
    .object({ format: text(40).required(), sha256: field('media', 'sha256').required(), rate: field('media', 'rate').required() })
    .nullable()
    .default(undefined),
  loudness: yup.array().of(yup.number().min(-1000).max(1000).nullable().defined()).max(257).nullable()
});
type MediaFields = yup.InferType<typeof mediaFields>;

/**
 * The media row of a recording that comes in, and its creation where it is new. One recording under two names is two rows: each track
 * shows the name its file had.
 */
export function mediaRow(
  session: Session,
  pending: readonly Change[],
  given: MediaFields
): { readonly id: string; readonly changes: Change[] } {
  const rows = [
    ...session.media.values(),
    ...pending.flatMap(({ table, after }) => (table === 'media' ? [after as unknown as Media] : []))
  ];
  const present = rows.find(({ sha256, name }) => sha256 === given.sha256 && name === given.name);
  if (present) return { id: present.id, changes: [] };
  const id = freeId(new Set(rows.map((row) => row.id)), given.id);
  const row = { ...given, id, origin: given.origin ?? null, loudness: given.loudness ?? null };
  return { id, changes: [creation('media', id, row)] };
}

/** An id, or it with the first number that makes it new. */
export function freeId(taken: { has(id: string): boolean }, id: string): string {
  if (!taken.has(id)) return id;
  for (let next = 2; ; next++) if (!taken.has(`${id.slice(0, 70)}:${next}`)) return `${id.slice(0, 70)}:${next}`;
}

/** Time references later than so many seconds are times of day or of another timeline, not positions in this session. */
const FAR_FROM_ZERO = 600;

/**
 * Tracks with their recordings, appended in the order given. `channel` is the recording's audio channel that the track
 * begins with, `width` how many it takes, `start` where on the timeline it stands. Without one its time reference says: the
 * first recordings to have any set the timeline's zero, the earliest of them at its beginning if it is far from midnight.
 * @example { "do": "tracks.add", "tracks": [{"id": "new", "name": "Vox", "media": {"id": "m-new", "name": "Vox.wav", "sha256": "0000000000000000000000000000000000000000000000000000000000000000", "rate": 48000, "channels": 1, "frames": 384000, "encoding": "f32", "peakDb": -3.2, "origin": null}}] }
 */
export const tracksAdd = define({
  name: 'tracks.add',
  schema: yup.object({
    tracks: yup
      .array()
      .of(
        yup.object({
          id: newId().required(),
          name: name().required(),
          colour: hue(),
          media: mediaFields,
          channel: whole(),
          width: field('channel', 'width'),
          start: whole(),
          timeReference: whole().nullable()
        })
      )
      .min(1)
      .required(),
    outputId: id().nullable()
  }),
  label: (_, { tracks }) => (tracks.length === 1 ? `Import ${tracks[0].name}` : `Import ${tracks.length} tracks`),
  plan: (session, { tracks, outputId = MIX }) => {
    const { rate } = settingsOf(session);
    const to = outputId === null ? null : session.channel.get(outputId);
    if (to === undefined) return refuse('not-found', 'The bus for these tracks is no longer there.');
    const wrong = to && notInto(to);
    if (wrong) return refuse('not-a-bus', wrong);
    if (new Set(tracks.map((track) => track.id)).size < tracks.length) return refuse('exists', 'Two of these tracks have one id.');
    let position = lastPosition(session);
    let born = nextBorn(session);
    const references = tracks.flatMap(({ timeReference }) => timeReference ?? []);
    const earliest = Math.min(...references);
    const fresh = references.length > 0 && session.clip.size === 0 && earliest > FAR_FROM_ZERO * rate;
    const zero = fresh ? earliest : settingsOf(session).zero;
    const changes: Change[] = fresh ? update(session, 'settings', 'settings', { zero }) : [];
    for (const track of tracks) {
      if (session.channel.has(track.id)) return refuse('exists', `A channel with the id ${track.id} exists already.`);
      if (track.media.rate !== rate)
        return refuse('rate', `${track.media.name} has ${track.media.rate} Hz, this session ${rate} Hz. Convert the file first.`);
      const width: 1 | 2 = track.width ?? (track.media.channels === 2 ? 2 : 1);
      const first = track.channel ?? 0;
      if (first + width > track.media.channels)
        return refuse('no-channel', `${track.media.name} has ${track.media.channels} channels; ${track.name} asks for more.`);
      const channel: Channel = {
        ...newChannel({ id: track.id, kind: 'track', name: track.name, position, born, width }),
        colour: track.colour ?? 0,
        outputId
      };
      changes.push(channelCreation(channel));
      const media = mediaRow(session, changes, track.media);
      changes.push(...media.changes);
      // A time reference that would lie beyond any timeline is none.
      const referred = Math.max(0, (track.timeReference ?? zero) - zero);
      const start = track.start ?? (referred + track.media.frames > DAY_S * rate ? 0 : referred);
      if (start + track.media.frames > DAY_S * rate)
        return refuse('too-large', `${track.media.name} would end more than a day after the session’s beginning. Place it earlier.`);
      const clip = newRow('clip', {
        id: freeId(session.clip, `${track.id}:1`),
        channelId: track.id,
        mediaId: media.id,
        start,
        length: track.media.frames,
        channel: first
      });
      changes.push(creation('clip', clip.id, clip));
      position += POSITION_STEP;
      born += 1;
    }
    return ok(changes);
  }
});

// The command that brings recordings into the session as tracks.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { birth, update, type Change } from '../session/changes.ts';
import { channelAtBirth, channelBirth, lastPosition, MIX, nextBorn, POSITION_STEP } from '../session/birth.ts';
import { settingsOf, type Channel, type Clip } from '../session/entities.ts';
import { define, hue, id, level, name, whole } from './define.ts';

export const mediaFields = yup.object({
  id: id().required(),
  name: yup.string().required(),
  sha256: yup
    .string()
    .matches(/^[0-9a-f]{64}$/)
    .required(),
  rate: whole().min(1).required(),
  channels: whole().min(1).max(256).required(),
  frames: whole().min(1).required(),
  encoding: yup
    .string()
    .oneOf(['s16', 's24', 's32', 'f32', 'f64'] as const)
    .required(),
  peakDb: level().required(),
  origin: yup
    .object({
      format: yup.string().max(40).required(),
      sha256: yup
        .string()
        .matches(/^[0-9a-f]{64}$/)
        .required(),
      rate: whole().min(1).required()
    })
    .nullable()
    .default(undefined),
  loudness: yup.array().of(yup.number().nullable().defined()).nullable()
});

/** Time references later than so many seconds are times of day or of another timeline, not positions in this session. */
const FAR_FROM_ZERO = 600;

/**
 * Tracks with their recordings, appended in the order given. `channel` is the recording's audio channel that the track
 * begins with, `width` how many it takes, `start` where on the timeline it stands. Without one its time reference says: the
 * first recordings to have any set the timeline's zero, the earliest of them at its beginning if it is far from midnight.
 */
export const tracksAdd = define({
  schema: yup.object({
    tracks: yup
      .array()
      .of(
        yup.object({
          id: id().required(),
          name: name().required(),
          colour: hue(),
          media: mediaFields,
          channel: whole(),
          width: yup.mixed<1 | 2>().oneOf([1, 2] as const),
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
    if (to === undefined || to?.kind === 'track') return refuse('not-found', 'The bus for these tracks is no longer there.');
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
        ...channelAtBirth({ id: track.id, kind: 'track', name: track.name, position, born, width }),
        colour: track.colour ?? 0,
        outputId
      };
      changes.push(channelBirth(channel));
      if (!session.media.has(track.media.id) && !changes.some((change) => change.key === track.media.id))
        changes.push(
          birth('media', track.media.id, { ...track.media, origin: track.media.origin ?? null, loudness: track.media.loudness ?? null })
        );
      const clip: Clip = {
        id: `${track.id}:1`,
        channelId: track.id,
        mediaId: track.media.id,
        start: track.start ?? Math.max(0, (track.timeReference ?? zero) - zero),
        offset: 0,
        length: track.media.frames,
        channel: first,
        side: 'both'
      };
      changes.push(birth('clip', clip.id, clip));
      position += POSITION_STEP;
      born += 1;
    }
    return ok(changes);
  }
});

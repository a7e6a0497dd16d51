// Recordings into tracks that stand ready for them: how a template takes its audio.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { creation, update, type Change } from '../session/changes.ts';
import { narrowed, widthBehind } from '../routing/width.ts';
import { DAY_S } from '../session/check.ts';
import { settingsOf } from '../session/entities.ts';
import { idsBy } from '../session/lookup.ts';
import { channelsOf, insertsOf } from '../session/select.ts';
import { newRow } from '../session/tables.ts';
import { freeId, mediaFields, mediaRow } from './tracks.ts';
import { define, id, whole } from './define.ts';
import { field } from './field.ts';

/**
 * Each track must be empty; it wakes, is shown, and becomes as wide as its recording.
 * @example { "do": "tracks.fill", "tracks": [{"id": "empty", "media": {"id": "m-new", "name": "Vox.wav", "sha256": "0000000000000000000000000000000000000000000000000000000000000000", "rate": 48000, "channels": 1, "frames": 384000, "encoding": "f32", "peakDb": -3.2, "origin": null}}] }
 */
export const tracksFill = define({
  name: 'tracks.fill',
  schema: yup.object({
    tracks: yup
      .array()
      .of(
        yup.object({
          id: id().required(),
          media: mediaFields,
          channel: whole(),
          width: field('channel', 'width'),
          start: whole()
        })
      )
      .min(1)
      .required()
  }),
  label: (session, { tracks }) =>
    tracks.length === 1 ? `Fill ${session.channel.get(tracks[0].id)?.name ?? 'track'}` : `Fill ${tracks.length} tracks`,
  plan: (session, { tracks }) => {
    const found = channelsOf(
      session,
      tracks.map((track) => track.id)
    );
    if (!found.ok) return found;
    if (new Set(tracks.map((track) => track.id)).size < tracks.length)
      return refuse('bad-arguments', 'Two recordings are meant for one track.');
    const { rate } = settingsOf(session);
    const changes: Change[] = [];
    for (const { id: channelId, media, channel = 0, width, start = 0 } of tracks) {
      const track = session.channel.get(channelId)!;
      const { kind, name } = track;
      if (kind !== 'track' && kind !== 'key') return refuse('not-a-track', `${name} is no track: it takes no recording.`);
      if (idsBy(session, 'clip', 'channelId', channelId).length) return refuse('filled', `${name} has a recording already.`);
      if (media.rate !== rate)
        return refuse('rate', `${media.name} has ${media.rate} Hz, this session ${rate} Hz. Convert the file first.`);
      const wide: 1 | 2 = width ?? (media.channels === 2 ? 2 : 1);
      if (channel + wide > media.channels)
        return refuse('no-channel', `${media.name} has ${media.channels} channels; ${name} asks for more.`);
      if (start + media.frames > DAY_S * rate)
        return refuse('too-large', `${media.name} would end more than a day after the session’s beginning. Place it earlier.`);
      const place = widthBehind(wide, insertsOf(session, channelId)) === 1 ? narrowed(track) : {};
      const row = mediaRow(session, changes, media);
      changes.push(...row.changes);
      const clip = newRow('clip', {
        id: freeId(session.clip, `${channelId}:1`),
        channelId,
        mediaId: row.id,
        start,
        length: media.frames,
        channel
      });
      changes.push(
        creation('clip', clip.id, clip),
        ...update(session, 'channel', channelId, { width: wide, ...place, resting: false, hidden: false })
      );
    }
    return ok(changes);
  }
});

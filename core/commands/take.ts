// What a bus or a return sounds like, printed, comes back as a track in its place.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { creation, update, type Change } from '../session/changes.ts';
import { DAY_S } from '../session/check.ts';
import { channelCreation, newChannel, nextBorn } from '../session/create.ts';
import { sendId, settingsOf, type Clip } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';
import { roomAfter } from '../session/select.ts';
import { newRow } from '../session/tables.ts';
import { define, id, newId, whole } from './define.ts';
import { freeId, mediaFields, mediaRow } from './tracks.ts';

/**
 * What `of`, a bus or a return, sounds like, as a track behind it: at unity into what that goes into, with its sends that are taken behind
 * the fader, and muted until it is wanted. With `rest` the original is put to rest. `start` is where the recording begins on the timeline.
 * @example { "do": "tracks.take", "id": "taken", "of": "echo", "rest": true, "media": {"id": "m-taken", "name": "Echo.wav", "sha256": "1111111111111111111111111111111111111111111111111111111111111111", "rate": 48000, "channels": 2, "frames": 384000, "encoding": "f32", "peakDb": -9.5, "origin": null} }
 */
export const tracksTake = define({
  name: 'tracks.take',
  schema: yup.object({
    id: newId().required(),
    of: id().required(),
    media: mediaFields.required(),
    start: whole(),
    rest: yup.boolean()
  }),
  label: (session, { of }) => `Take ${session.channel.get(of)?.name ?? 'it'} as a track`,
  plan: (session, { id, of, media: given, start = 0, rest = false }) => {
    const original = session.channel.get(of);
    if (!original) return refuse('not-found', 'What was printed is no longer in the session.', { id: of });
    if (original.kind !== 'bus' && original.kind !== 'return')
      return refuse('not-a-bus', `${original.name} is no bus and no return: only these are taken as tracks.`);
    if (session.channel.has(id)) return refuse('exists', `A channel with the id ${id} exists already.`);
    const { rate } = settingsOf(session);
    if (given.rate !== rate)
      return refuse('rate', `${given.name} has ${given.rate} Hz, this session ${rate} Hz. Print it at the session’s own rate.`);
    if (given.channels > 2) return refuse('no-channel', `${given.name} has ${given.channels} channels; a track takes one or two.`);
    if (start + given.frames > DAY_S * rate)
      return refuse('too-large', `${given.name} would end more than a day after the session’s beginning.`);
    const room = roomAfter(session, of);
    const { colour, role, outputId, outputPair } = original;
    const track = {
      ...newChannel({
        id,
        kind: 'track',
        name: `${original.name.slice(0, 112)} (print)`,
        position: room.positions[0],
        born: nextBorn(session),
        width: 2
      }),
      ...{ colour, role, outputId, outputPair, mute: true }
    };
    const media = mediaRow(session, [], given);
    const clip = (side: Clip['side']): Change => {
      const own = freeId(session.clip, side === 'both' ? `${id}:1` : `${id}:${side}`);
      return creation('clip', own, newRow('clip', { id: own, channelId: id, mediaId: media.id, start, length: given.frames, side }));
    };
    // One channel stands for two that are the same: at unity on either side, whatever the pan law.
    const clips = given.channels === 2 ? [clip('both')] : [clip('left'), clip('right')];
    const sends = rowsBy(session, 'send', 'sourceId', of)
      .filter(({ tap }) => tap === 'post')
      .map((send) => creation('send', sendId(id, send.targetId), { ...send, sourceId: id }));
    return ok([
      ...room.moved,
      channelCreation(track),
      ...media.changes,
      ...clips,
      ...sends,
      ...(rest ? update(session, 'channel', of, { resting: true }) : [])
    ]);
  }
});

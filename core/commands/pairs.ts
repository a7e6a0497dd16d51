// Two mono tracks into one stereo track, and one stereo track into two: the same recordings, placed side by side.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { birth, commit, update, type Change } from '../session/changes.ts';
import { nextBorn } from '../session/birth.ts';
import { keyOf, type Session } from '../session/entities.ts';
import { processors } from '../dsp/params.ts';
import { channelsOf, inOrder, insertsOf } from '../session/select.ts';
import { channelsRemove } from './channels.ts';
import { define, id, name } from './define.ts';

const clipsOf = (session: Session, channelId: string) => [...session.clip.values()].filter((clip) => clip.channelId === channelId);

/** The left one becomes stereo and takes the right one's recordings on its right side; its sends, inserts and place stay. */
export const tracksPair = define({
  schema: yup.object({ left: id().required(), right: id().required(), name: name() }),
  label: (session, { left, right }) =>
    `Pair ${session.channel.get(left)?.name ?? 'two'} and ${session.channel.get(right)?.name ?? 'tracks'}`,
  plan: (session, { left, right, name }) => {
    const found = channelsOf(session, [left, right]);
    if (!found.ok) return found;
    const [one, other] = [session.channel.get(left)!, session.channel.get(right)!];
    if (left === right) return refuse('bad-arguments', 'A pair is made of two tracks.');
    for (const channel of [one, other])
      if (channel.kind !== 'track' || channel.width !== 1)
        return refuse('not-mono', `${channel.name} is not a mono track. Select two mono tracks.`);
    const changes: Change[] = [
      ...update(session, 'channel', left, { width: 2, pan: 0, panRight: null, spread: 100, ...(name ? { name } : {}) }),
      ...clipsOf(session, left).flatMap((clip) => update(session, 'clip', clip.id, { side: 'left' })),
      ...clipsOf(session, right).flatMap((clip) => update(session, 'clip', clip.id, { channelId: left, side: 'right' }))
    ];
    const undo = commit(session, changes);
    try {
      const gone = channelsRemove.plan(session, { ids: [right], membersTo: undefined });
      return gone.ok ? ok([...changes, ...gone.value]) : gone;
    } finally {
      commit(session, undo);
    }
  }
});

/** The left side stays in its place, panned hard left; the right side stands below it, panned hard right, with the same sends. */
export const tracksSplit = define({
  schema: yup.object({ id: id().required(), right: id().required() }),
  label: (session, { id }) => `Split ${session.channel.get(id)?.name ?? 'track'} into left and right`,
  plan: (session, { id, right }) => {
    const found = channelsOf(session, [id]);
    if (!found.ok) return found;
    const [channel] = found.value;
    if (channel.kind !== 'track' || channel.width !== 2) return refuse('not-stereo', `${channel.name} is not a stereo track. Select one.`);
    const wide = insertsOf(session, id).find(({ type }) => processors[type].stereo);
    if (wide)
      return refuse(
        'stereo-only',
        `${processors[wide.type].title} needs a stereo track. Take it off ${channel.name} first, or put it on a return.`
      );
    if (session.channel.has(right)) return refuse('exists', 'A channel with this id exists already.');
    const order = inOrder(session);
    const next = order[order.findIndex((row) => row.id === id) + 1]?.position ?? channel.position + 2;
    const stem = channel.name.replace(/[\s_-]*(L\s*[+/&-]?\s*R|stereo)$/i, '').trim() || channel.name;
    const changes: Change[] = [
      ...update(session, 'channel', id, { width: 1, pan: -100, panRight: null, spread: 100, name: `${stem} L` }),
      birth('channel', right, {
        ...channel,
        id: right,
        name: `${stem} R`,
        width: 1,
        pan: 100,
        panRight: null,
        spread: 100,
        position: (channel.position + next) / 2,
        born: nextBorn(session)
      })
    ];
    for (const clip of clipsOf(session, id)) {
      if (clip.side === 'right') changes.push(...update(session, 'clip', clip.id, { channelId: right, side: 'both' }));
      else {
        changes.push(...update(session, 'clip', clip.id, { side: 'both' }));
        if (clip.side === 'left') continue;
        const other = { ...clip, id: `${right}:${clip.id}`.slice(0, 80), channelId: right, channel: clip.channel + 1 };
        changes.push(birth('clip', other.id, other));
      }
    }
    for (const send of session.send.values())
      if (send.sourceId === id) {
        const own = { ...send, sourceId: right };
        changes.push(birth('send', keyOf('send', own), own));
      }
    for (const insert of session.insert.values())
      if (insert.channelId === id) {
        const own = {
          ...insert,
          id: `${right}:${insert.id}`.slice(0, 80),
          channelId: right,
          keyId: insert.keyId === id ? right : insert.keyId
        };
        changes.push(birth('insert', own.id, own));
      }
    return ok(changes);
  }
});

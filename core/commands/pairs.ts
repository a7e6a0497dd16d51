// Two mono tracks into one stereo track, and one stereo track into two: the same recordings, placed side by side. What is heard stays
// as it is, or the command says by name what stands in the way.
import * as yup from 'yup';
import { laneName } from '../lanes/kinds.ts';
import { playingLane, plays } from '../lanes/points.ts';
import { ok, refuse, type Result } from '../result.ts';
import { creation, update, type Change } from '../session/changes.ts';
import { nextBorn } from '../session/create.ts';
import { rowId, sendId, settingsOf, type Channel, type Send, type Session } from '../session/entities.ts';
import { copiedWith } from '../session/dependents.ts';
import { holdersOf } from '../session/vcas.ts';
import { processors, valuesOf } from '../processors/index.ts';
import { leftGain } from '../routing/gain.ts';
import { rowsBy } from '../session/lookup.ts';
import { channelsOf, insertsOf, roomAfter } from '../session/select.ts';
import { columnsOf } from '../session/tables.ts';
import { cut } from '../text.ts';
import { dbOf, FLOOR_DB, TOP_DB, type Db } from '../units.ts';
import { channelsRemove } from './channels.ts';
import { define, id, name, newId } from './define.ts';
import { inSequence } from './sequence.ts';
import { freeId } from './tracks.ts';
import { unequal } from './twins.ts';

const clipsOf = (session: Session, channelId: string) => rowsBy(session, 'clip', 'channelId', channelId);
const nameOf = (session: Session, channelId: string) => session.channel.get(channelId)?.name ?? 'a channel';
const sendsOf = (session: Session, sourceId: string) => rowsBy(session, 'send', 'sourceId', sourceId);
const listenerTo = (session: Session, channelId: string) =>
  rowsBy(session, 'insert', 'keyId', channelId).find((insert) => insert.channelId !== channelId);

/**
 * The left one becomes stereo and takes the right one's recordings on its right side; its sends, inserts and place stay.
 * @example { "do": "tracks.pair", "left": "spare", "right": "spare2", "name": "Overheads" }
 */
export const tracksPair = define({
  name: 'tracks.pair',
  schema: yup.object({ left: id().required(), right: id().required(), name: name() }),
  label: (session, { left, right }) => {
    const [one, other] = [session.channel.get(left), session.channel.get(right)];
    const wide = one?.pan === 0 && other?.pan === 0;
    return `Pair ${one?.name ?? 'two'} and ${other?.name ?? 'tracks'}${wide ? ', hard left and right' : ''}`;
  },
  plan: (session, { left, right, name }) => {
    const found = channelsOf(session, [left, right]);
    if (!found.ok) return found;
    const [one, other] = [session.channel.get(left)!, session.channel.get(right)!];
    if (left === right) return refuse('bad-arguments', 'A pair is made of two tracks.');
    for (const channel of [one, other])
      if (channel.kind !== 'track' || channel.width !== 1 || channel.pattern)
        return refuse('not-mono', `${channel.name} is not a mono track with recordings. Select two such.`);
    const why = apart(session, one, other);
    if (why) return refuse('unequal', `${why} Make them alike first.`);
    const changes: Change[] = [
      ...update(session, 'channel', left, { width: 2, ...pinsOf(one, other), spread: 100, ...(name ? { name } : {}) }),
      ...clipsOf(session, left).flatMap((clip) => update(session, 'clip', clip.id, { side: 'left' })),
      ...clipsOf(session, right).flatMap((clip) => update(session, 'clip', clip.id, { channelId: left, side: 'right' }))
    ];
    return inSequence(session, [ok(changes), null], (step) => step ?? channelsRemove.plan(session, { ids: [right], membersTo: undefined }));
  }
});

/** Where the sides stand: where the tracks stood; two that nobody has placed yet go hard left and right. */
const pinsOf = (one: Channel, other: Channel) =>
  (one.pan === 0 && other.pan === 0) || (one.pan === -100 && other.pan === 100)
    ? { pan: 0, panRight: null }
    : { pan: one.pan, panRight: other.pan };

/** What makes two sides of one on a channel, in words. */
function widening(session: Session, channelId: string): string | null {
  const insert = insertsOf(session, channelId).find(({ type }) => processors[type].stereo);
  return insert ? processors[insert.type].title : null;
}

/** What of the right track would be lost or heard otherwise in one with the left, in words. */
function apart(session: Session, one: Channel, other: Channel): string | null {
  const lane = [...session.lane.values()].find((each) => [one.id, other.id].includes(each.channelId) && plays(session, each));
  if (lane) return `The ${laneName(session, lane)} has a lane: switch it off.`;
  const different = AGREE.find(([field]) => one[field] !== other[field]);
  if (different) return `${one.name} and ${other.name} differ in their ${different[1]}.`;
  const inserts = unequal(session, one.id, other.id, false);
  if (inserts) return `${inserts}.`;
  const wide = widening(session, one.id);
  if (wide) return `The ${wide} makes two sides of each of ${one.name} and ${other.name}, which a pair has of its own.`;
  const [holders, others] = [one, other].map(({ id }) => holdersOf(session, id).join());
  if (holders !== others) return `${one.name} and ${other.name} are in different VCAs.`;
  const key = listenerTo(session, other.id);
  if (key) return `${nameOf(session, key.channelId)} listens to ${other.name} as a key.`;
  const [mine, theirs] = [one, other].map(({ id }) => sendsOf(session, id).filter(({ levelDb }) => levelDb > -Infinity));
  const alike = (a: Send, b: Send) =>
    (['targetId', 'levelDb', 'tap', 'on', 'mono', 'pan'] as const).every((field) => a[field] === b[field]);
  const strange =
    theirs.find((send) => !mine.some((own) => alike(own, send))) ?? mine.find((send) => !theirs.some((own) => alike(own, send)));
  if (strange) return `Only one of ${one.name} and ${other.name} sends to ${nameOf(session, strange.targetId)} like that.`;
  // Of a pair a mono send takes half of each, and an own pan is a balance.
  const bent = mine.find(({ mono, pan }) => mono || pan !== null);
  return bent
    ? `Both have a mono send, or one with a pan of its own, to ${nameOf(session, bent.targetId)}, which a pair would send otherwise.`
    : null;
}
/** What two tracks have to agree in: all that is heard of them and that the pair does not make itself. */
const AGREE = Object.entries(columnsOf('channel'))
  .filter(([, { sound, paired }]) => sound && !paired)
  .map(([name, { words }]) => [name as keyof Channel, words ?? name] as const);

/** A side of a stereo track as a mono one: where it stands, and what is added to its level. */
type Half = { readonly pan: number; readonly addDb: Db; readonly monoDb: Db };

/**
 * The left side stays in its place, the right side stands below it, with the same sends: each placed where it was, a balance in the
 * faders, half of a mono send each.
 * @example { "do": "tracks.split", "id": "b", "right": "x" }
 */
export const tracksSplit = define({
  name: 'tracks.split',
  schema: yup.object({ id: id().required(), right: newId().required() }),
  label: (session, { id }) => {
    const linked = insertsOf(session, id).find(({ type, bypass }) => !bypass && processors[type].linked);
    const note = linked ? ` (each with a ${processors[linked.type].title} of its own)` : '';
    return `Split ${session.channel.get(id)?.name ?? 'track'} into left and right${note}`;
  },
  plan: (session, { id, right }) => {
    const found = channelsOf(session, [id]);
    if (!found.ok) return found;
    const [channel] = found.value;
    if (channel.kind !== 'track' || channel.width !== 2) return refuse('not-stereo', `${channel.name} is not a stereo track. Select one.`);
    if (session.channel.has(right)) return refuse('exists', 'A channel with this id exists already.');
    const why = inseparable(session, channel);
    if (why) return why;
    const [mine, theirs] = halvesOf(session, channel);
    const room = roomAfter(session, id);
    const stem = channel.name.replace(/[\s_-]*(L\s*[+/&-]?\s*R|stereo)$/i, '').trim() || channel.name;
    const place = (half: Half, side: string) => ({
      width: 1 as const,
      ...{ pan: half.pan, panRight: null, spread: 100, name: `${cut(stem, 118)} ${side}`, faderDb: floored(channel.faderDb + half.addDb) }
    });
    const changes: Change[] = [
      ...room.moved,
      ...update(session, 'channel', id, place(mine, 'L')),
      creation('channel', right, {
        ...channel,
        ...place(theirs, 'R'),
        id: right,
        position: room.positions[0],
        born: nextBorn(session)
      })
    ];
    for (const [i, clip] of clipsOf(session, id).entries()) {
      if (clip.side === 'right') changes.push(...update(session, 'clip', clip.id, { channelId: right, side: 'both' }));
      else {
        changes.push(...update(session, 'clip', clip.id, { side: 'both' }));
        if (clip.side === 'left') continue;
        const other = {
          ...clip,
          id: freeId(session.clip, `${right}:c${i + 1}`),
          channelId: right,
          channel: clip.channel + 1
        };
        changes.push(creation('clip', other.id, other));
      }
    }
    const sends = halvedSends(session, channel, right, [mine, theirs]);
    if (!sends.ok) return sends;
    changes.push(...sends.value);
    // Both halves are in the VCAs and link groups of the whole.
    changes.push(...copiedWith(session, new Map([[id, right]]), { without: ['send', 'insert', 'clip', 'cueToken'] }));
    for (const [i, insert] of insertsOf(session, id).entries()) {
      const own = {
        ...insert,
        id: freeId(session.insert, `${right}:i${i}`),
        channelId: right,
        keyId: insert.keyId === id ? right : insert.keyId
      };
      changes.push(creation('insert', own.id, own));
    }
    return ok(changes);
  }
});

const floored = (level: Db): Db => (level < FLOOR_DB ? -Infinity : level);

/** What makes one of two sides that cannot be had from each alone. */
function inseparable(session: Session, channel: Channel): Result<never> | null {
  const lane = (['fader', 'pan', 'spread'] as const).map((of) => playingLane(session, { channelId: channel.id, of })).find(Boolean);
  if (lane) return refuse('automated', `The ${laneName(session, lane)} has a lane, which two tracks could not share. Switch it off first.`);
  const wide = widening(session, channel.id);
  if (wide) return refuse('changes-sound', `The ${wide} of ${channel.name} would make two sides of each. Take it off first.`);
  const crossing = insertsOf(session, channel.id).find(
    ({ type, params, bypass }) => !bypass && processors[type].crosses?.(valuesOf(type, params))
  );
  if (crossing)
    return refuse('changes-sound', `The ${processors[crossing.type].title} of ${channel.name} mixes its sides. Switch that off first.`);
  if (channel.spread !== 100)
    return refuse('changes-sound', `The width of ${channel.name} is ${channel.spread} %, which mixes its sides. Set it to 100 % first.`);
  const key = listenerTo(session, channel.id);
  return key
    ? refuse('key', `${nameOf(session, key.channelId)} listens to both sides of ${channel.name} as a key. Give it another key first.`)
    : null;
}

/** A stereo channel's sides as mono tracks under the session's pan law. */
function halvesOf(session: Session, { pan, panRight }: Channel): [Half, Half] {
  const law = settingsOf(session).panLaw;
  if (panRight === null)
    return [
      { pan: -100, addDb: dbOf(leftGain(pan / 100, 0)), monoDb: dbOf(0.5) },
      { pan: 100, addDb: dbOf(leftGain(-pan / 100, 0)), monoDb: dbOf(0.5) }
    ];
  // What a pin makes of one side, folded: half of what it gives to both.
  const folded = (pin: number) => dbOf((leftGain(pin / 100, law) + leftGain(-pin / 100, law)) / 2);
  return [
    { pan, addDb: 0, monoDb: folded(pan) },
    { pan: panRight, addDb: 0, monoDb: folded(panRight) }
  ];
}

/** The sends of both halves. A level in the fader reaches `post` sends by itself; the others take it over. */
function halvedSends(session: Session, channel: Channel, right: string, halves: readonly [Half, Half]): Result<Change[]> {
  const changes: Change[] = [];
  for (const send of sendsOf(session, channel.id))
    for (const [side, half] of halves.entries()) {
      const fields = halved(send, half, side as 0 | 1);
      const target = nameOf(session, send.targetId);
      if (fields.levelDb > TOP_DB) return refuse('too-loud', `The send to ${target} would have to pass +12 dB. Lower it first.`);
      if (Number.isNaN(fields.levelDb))
        return refuse('silent', `One side of ${channel.name} is turned off by its pan, yet sent to ${target}. Centre it first.`);
      if (side === 0) changes.push(...update(session, 'send', sendId(channel.id, send.targetId), fields));
      else {
        const own = { ...fields, sourceId: right };
        changes.push(creation('send', rowId('send', own), own));
      }
    }
  return ok(changes);
}

function halved(send: Send, { addDb, monoDb }: Half, side: 0 | 1): Send {
  if (send.levelDb === -Infinity) return send;
  const early = send.tap !== 'post';
  // Before the pan both sides of a balance are folded alike; behind it the faders hold what it does.
  if (send.mono) return { ...send, levelDb: floored(send.levelDb + (early ? dbOf(0.5) : monoDb)) };
  if (send.pan === null) return { ...send, levelDb: floored(send.levelDb + (early ? addDb : 0)) };
  const sided = dbOf(leftGain((side === 0 ? send.pan : -send.pan) / 100, 0));
  return { ...send, pan: side === 0 ? -100 : 100, levelDb: floored(send.levelDb + sided - (early ? 0 : addDb)) };
}

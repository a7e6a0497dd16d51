// Commands that make, remove, name, colour and order channels.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { birth, removal, update, type Change } from '../session/changes.ts';
import { channelAtBirth, channelBirth, insertAtBirth, lastPosition, MIX, nextBorn, POSITION_STEP, sendAtBirth } from '../session/birth.ts';
import { keyOf, settingsOf, type Channel, type Clip, type Session } from '../session/entities.ts';
import { channelsOf, counted } from '../session/select.ts';
import { define, id, ids, level, name, whole } from './define.ts';
import { planRoute } from './routing.ts';

const media = yup.object({
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
    .default(undefined)
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
          colour: whole().max(11),
          media,
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
        changes.push(birth('media', track.media.id, { ...track.media, origin: track.media.origin ?? null }));
      const clip: Clip = {
        id: `${track.id}:1`,
        channelId: track.id,
        mediaId: track.media.id,
        start: track.start ?? Math.max(0, (track.timeReference ?? zero) - zero),
        offset: 0,
        length: track.media.frames,
        channel: first
      };
      changes.push(birth('clip', clip.id, clip));
      position += POSITION_STEP;
      born += 1;
    }
    return ok(changes);
  }
});

/** A bus, placed before its first member, that takes over its members' place: what is heard stays the same. */
export const busesAdd = define({
  schema: yup.object({
    id: id().required(),
    name: name().required(),
    colour: whole().max(11),
    members: yup.array().of(id().required()).default([]),
    outputId: id()
  }),
  label: (session, { name, members }) => (members.length ? `New bus ${name} from ${counted(session, members)}` : `New bus ${name}`),
  plan: (session, { id, name, colour, members, outputId }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const found = channelsOf(session, members);
    if (!found.ok) return found;
    if (found.value.some((channel) => channel.kind === 'mix'))
      return refuse('mix-bus', 'The mix bus cannot go into a bus. Leave it out of the selection.');
    const first = found.value.toSorted((a, b) => a.position - b.position)[0];
    const to = outputId ?? commonOutput(session, found.value);
    const bus: Channel = {
      ...channelAtBirth({
        id,
        kind: 'bus',
        name,
        position: first ? positionBefore(session, first.id) : lastPosition(session),
        born: nextBorn(session),
        width: 2
      }),
      colour: colour ?? first?.colour ?? 0,
      outputId: to
    };
    const changes = [channelBirth(bus)];
    const routed = planRoute(session, members, { outputId: id, outputPair: null }, changes);
    return routed.ok ? ok([...changes, ...routed.value]) : routed;
  }
});

/** A return: solo-safe, its reverb 100 % wet; optionally with sends at −∞ from given channels. */
export const returnsAdd = define({
  schema: yup.object({
    id: id().required(),
    name: name().required(),
    colour: whole().max(11),
    outputId: id().default(MIX),
    effect: yup
      .string()
      .oneOf(['reverb', 'none'] as const)
      .default('reverb'),
    sources: yup.array().of(id().required()).default([])
  }),
  label: (session, { name, sources }) =>
    sources.length ? `New return ${name} with sends from ${counted(session, sources)}` : `New return ${name}`,
  plan: (session, { id, name, colour, outputId, effect, sources }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    if (!session.channel.has(outputId)) return refuse('not-found', 'The bus for this return is no longer there.');
    const found = channelsOf(session, sources);
    if (!found.ok) return found;
    const count = [...session.channel.values()].filter((channel) => channel.kind === 'return').length;
    const channel: Channel = {
      ...channelAtBirth({ id, kind: 'return', name, position: lastPosition(session), born: nextBorn(session), width: 2 }),
      colour: colour ?? (count * 5 + 7) % 12,
      outputId
    };
    const changes = [channelBirth(channel)];
    if (effect === 'reverb') {
      const insert = insertAtBirth(`${id}:reverb`, channel, 'reverb', POSITION_STEP);
      changes.push(birth('insert', insert.id, insert));
    }
    for (const source of found.value) {
      if (source.kind === 'mix') return refuse('loop', `${source.name} → ${name} → ${source.name} would be a loop.`);
      const send = sendAtBirth(source.id, id);
      changes.push(birth('send', keyOf('send', send), send));
    }
    return ok(changes);
  }
});

/** Removes channels with all that hangs on them; members of a removed bus go to `membersTo`, or one level up. */
export const channelsRemove = define({
  schema: yup.object({ ids: ids(), membersTo: id().nullable() }),
  label: (session, { ids }) => `Remove ${counted(session, ids)}`,
  plan: (session, { ids, membersTo }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const gone = new Set(ids);
    if (gone.has(MIX)) return refuse('mix-bus', 'The mix bus stays: every session has one.');
    if (membersTo && (gone.has(membersTo) || !session.channel.has(membersTo)))
      return refuse('not-found', 'The members need a bus that stays. Choose another.');
    const rows: Change[] = [];
    for (const [key, send] of session.send)
      if (gone.has(send.sourceId) || gone.has(send.targetId)) rows.push(removal(session, 'send', key));
    for (const insert of session.insert.values())
      if (gone.has(insert.channelId)) rows.push(removal(session, 'insert', insert.id));
      else if (insert.keyId !== null && gone.has(insert.keyId)) rows.push(...update(session, 'insert', insert.id, { keyId: null }));
    const mediaUsed = new Map<string, number>();
    for (const clip of session.clip.values()) mediaUsed.set(clip.mediaId, (mediaUsed.get(clip.mediaId) ?? 0) + 1);
    for (const clip of session.clip.values()) {
      if (!gone.has(clip.channelId)) continue;
      rows.push(removal(session, 'clip', clip.id));
      const left = mediaUsed.get(clip.mediaId)! - 1;
      mediaUsed.set(clip.mediaId, left);
      if (left === 0) rows.push(removal(session, 'media', clip.mediaId));
    }
    const members = [...session.channel.values()].filter(
      (channel) => channel.outputId && gone.has(channel.outputId) && !gone.has(channel.id)
    );
    for (const member of members) {
      const to = membersTo === undefined ? outputAbove(session, member, gone) : { outputId: membersTo, outputPair: null };
      const routed = planRoute(session, [member.id], to, []);
      if (!routed.ok) return routed;
      rows.push(...routed.value);
    }
    for (const channel of found.value) rows.push(removal(session, 'channel', channel.id));
    return ok(rows);
  }
});

export const channelsRename = define({
  schema: yup.object({
    names: yup
      .array()
      .of(yup.object({ id: id().required(), name: name().required() }))
      .min(1)
      .required()
  }),
  label: (session, { names }) =>
    names.length === 1
      ? `Rename ${session.channel.get(names[0].id)?.name ?? 'channel'} to ${names[0].name}`
      : `Rename ${names.length} channels`,
  plan: (session, { names }) => {
    const found = channelsOf(
      session,
      names.map((entry) => entry.id)
    );
    return found.ok ? ok(names.flatMap(({ id, name }) => update(session, 'channel', id, { name }))) : found;
  }
});

export const channelsColour = define({
  schema: yup.object({ ids: ids(), colour: whole().max(11).required() }),
  label: (session, { ids }) => `Colour ${counted(session, ids)}`,
  plan: (session, { ids, colour }) => {
    const found = channelsOf(session, ids);
    return found.ok ? ok(ids.flatMap((id) => update(session, 'channel', id, { colour }))) : found;
  }
});

/** Moves channels, in their present order, to stand before another, or after all. */
export const channelsMove = define({
  schema: yup.object({ ids: ids(), before: id().nullable().default(null) }),
  label: (session, { ids }) => `Move ${counted(session, ids)}`,
  plan: (session, { ids, before }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    if (before !== null && !session.channel.has(before)) return refuse('not-found', 'The row to move before is no longer there.');
    const moved = new Set(ids);
    const order = ordered(session);
    const staying = order.filter((channel) => !moved.has(channel.id));
    const moving = order.filter((channel) => moved.has(channel.id));
    const at =
      before === null
        ? staying.length
        : order
            .slice(order.findIndex((channel) => channel.id === before))
            .reduce((index, channel) => (index === -1 ? staying.indexOf(channel) : index), -1);
    const index = at === -1 ? staying.length : at;
    const low = staying[index - 1]?.position ?? (staying[0]?.position ?? 0) - POSITION_STEP * (moving.length + 1);
    const high = staying[index]?.position ?? low + POSITION_STEP * (moving.length + 1);
    const step = (high - low) / (moving.length + 1);
    if (step > 1e-6) return ok(moving.flatMap((channel, i) => update(session, 'channel', channel.id, { position: low + step * (i + 1) })));
    const whole = [...staying.slice(0, index), ...moving, ...staying.slice(index)];
    return ok(whole.flatMap((channel, i) => update(session, 'channel', channel.id, { position: i * POSITION_STEP })));
  }
});

const ordered = (session: Session) => [...session.channel.values()].sort((a, b) => a.position - b.position || a.born - b.born);

/** A position between a channel and the one before it. */
function positionBefore(session: Session, id: string): number {
  const order = ordered(session);
  const index = order.findIndex((channel) => channel.id === id);
  const low = order[index - 1]?.position ?? order[index].position - 2 * POSITION_STEP;
  return (low + order[index].position) / 2;
}

/** Where all members go already, else the mix bus. */
function commonOutput(session: Session, members: readonly Channel[]): string {
  const [first] = members;
  const shared = first?.outputId && members.every((channel) => channel.outputId === first.outputId);
  return shared && session.channel.has(first.outputId!) ? first.outputId! : MIX;
}

/** The first output above a member that is not being removed. */
function outputAbove(session: Session, member: Channel, gone: ReadonlySet<string>) {
  let { outputId, outputPair } = member;
  while (outputId !== null && gone.has(outputId)) ({ outputId, outputPair } = session.channel.get(outputId)!);
  return { outputId, outputPair };
}

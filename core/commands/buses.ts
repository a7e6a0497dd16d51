// Commands that make buses around, above and between what is there, and take them away again: at unity nothing heard changes.
import * as yup from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { clampDb, TOP_DB } from '../units.ts';
import { update, type Change } from '../session/changes.ts';
import { newChannel, channelCreation, MIX, nextBorn } from '../session/create.ts';
import { rowId, type Channel, type Session } from '../session/entities.ts';
import { movesOverTime } from '../lanes/points.ts';
import { idsBy, rowsBy } from '../session/lookup.ts';
import { mixChain } from '../routing/graph.ts';
import { levelOf, mutedOf } from '../routing/level.ts';
import { channelsOf, counted, insertsOf, roomAfter, roomBefore } from '../session/select.ts';
import { channelsRemove } from './channels.ts';
import { define, hue, id, ids, name, newId } from './define.ts';
import { notInto, planRoute, type Output } from './routing.ts';
import { inSequence } from './sequence.ts';

/**
 * A bus, placed before its first member, that takes over its members' place: what is heard stays the same.
 * @example { "do": "buses.add", "id": "x", "name": "DRUMS", "members": ["a", "b"] }
 */
export const busesAdd = define({
  name: 'buses.add',
  schema: yup.object({
    id: newId().required(),
    name: name().required(),
    colour: hue(),
    members: yup.array().of(id().required()).default([]),
    outputId: id()
  }),
  label: (session, { name, members }) => (members.length ? `New bus ${name} from ${counted(session, members)}` : `New bus ${name}`),
  plan: (session, { id, name, colour, members, outputId }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const found = channelsOf(session, members);
    if (!found.ok) return found;
    if (found.value.some((channel) => channel.kind === 'mix'))
      return refuse('mix-bus', 'The mix bus has its own chain. Leave it out of the selection, or add a stage to the chain.');
    const first = found.value.toSorted((a, b) => a.position - b.position)[0];
    const to = outputId === undefined ? commonOutput(found.value) : intoChannel(session, outputId);
    if (!to.ok) return to;
    const room = roomBefore(session, first?.id ?? null);
    const bus: Channel = {
      ...newChannel({ id, kind: 'bus', name, position: room.positions[0], born: nextBorn(session), width: 2 }),
      colour: colour ?? first?.colour ?? 0,
      ...to.value
    };
    const changes = [...room.moved, channelCreation(bus)];
    const routed = planRoute(session, members, { outputId: id, outputPair: null }, changes);
    return routed.ok ? ok([...changes, ...routed.value]) : routed;
  }
});

/** A channel that can be gone into, as an output. */
function intoChannel(session: Session, outputId: string): Result<Output> {
  const target = session.channel.get(outputId);
  if (!target) return refuse('not-found', 'The bus for these is no longer there. Choose another.', { id: outputId });
  const wrong = notInto(target);
  return wrong ? refuse('not-a-bus', wrong) : ok({ outputId, outputPair: null });
}

/**
 * Where all members go already, be it an interface output or nowhere; the mix bus where they go to different buses. Members of
 * which one leaves through the interface or goes nowhere, and another does not, have nothing in common: one of them would be heard elsewhere.
 */
export function commonOutput(members: readonly Channel[]): Result<Output> {
  const [first] = members;
  if (!first) return ok({ outputId: MIX, outputPair: null });
  const { outputId, outputPair } = first;
  if (members.every((channel) => channel.outputId === outputId && channel.outputPair === outputPair)) return ok({ outputId, outputPair });
  const apart = members.find((channel) => channel.outputId === null);
  if (!apart) return ok({ outputId: MIX, outputPair: null });
  const goes = apart.outputPair === null ? 'nowhere' : `to outputs ${apart.outputPair * 2 + 1}–${apart.outputPair * 2 + 2}`;
  return refuse('changes-sound', `${apart.name} goes ${goes}, the others do not. Route them alike first.`);
}

/**
 * A bus between a bus and its members, all of them or some: they go into the new one, and it goes where they went.
 * @example { "do": "buses.insert", "id": "x", "name": "GLUE", "into": "bus" }
 */
export const busesInsert = define({
  name: 'buses.insert',
  schema: yup.object({ id: newId().required(), name: name().required(), into: id().required(), members: yup.array().of(id().required()) }),
  label: (session, { name, into }) => `Insert bus ${name} before ${session.channel.get(into)?.name ?? 'a bus'}`,
  plan: (session, { id, name, into, members }) => {
    const found = channelsOf(session, [into]);
    if (!found.ok) return found;
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const inside = rowsBy(session, 'channel', 'outputId', into).sort((a, b) => a.position - b.position || a.born - b.born);
    const chosen = members ? inside.filter((channel) => members.includes(channel.id)) : inside;
    if (members && chosen.length < new Set(members).size)
      return refuse('not-a-member', `Only what goes into ${found.value[0].name} can go through a bus before it.`);
    if (chosen.length === 0) return refuse('empty', `Nothing goes into ${found.value[0].name}. Route something into it first.`);
    const room = roomBefore(session, chosen[0].id);
    const bus: Channel = {
      ...newChannel({ id, kind: 'bus', name, position: room.positions[0], born: nextBorn(session), width: 2 }),
      colour: found.value[0].kind === 'mix' ? chosen[0].colour : found.value[0].colour,
      outputId: into
    };
    const changes = [...room.moved, channelCreation(bus)];
    const routed = planRoute(
      session,
      chosen.map((channel) => channel.id),
      { outputId: id, outputPair: null },
      changes
    );
    return routed.ok ? ok([...changes, ...routed.value]) : routed;
  }
});

/**
 * One more stage at the end of the mix chain: it takes over the interface output, and the last stage goes into it.
 * @example { "do": "chain.add", "id": "x", "name": "FINAL" }
 */
export const chainAdd = define({
  name: 'chain.add',
  schema: yup.object({ id: newId().required(), name: name().required() }),
  label: (_, { name }) => `Add ${name} to the mix chain`,
  plan: (session, { id, name }) => {
    if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
    const last = mixChain(session).at(-1)!;
    const room = roomAfter(session, last.id);
    const stage: Channel = {
      ...newChannel({ id, kind: 'bus', name, position: room.positions[0], born: nextBorn(session), width: 2 }),
      outputPair: last.outputPair
    };
    return ok([...room.moved, channelCreation(stage), ...update(session, 'channel', last.id, { outputId: id, outputPair: null })]);
  }
});

/**
 * Takes buses away, their members one level up. `gain: 'commit'` moves the bus's level, polarity aside, into the members' faders
 * and out of their `post` sends, so that nothing is heard to change; refused where that cannot be. `'drop'` forgets it.
 * @example { "do": "buses.dissolve", "ids": ["bus"], "gain": "drop" }
 */
export const busesDissolve = define({
  name: 'buses.dissolve',
  schema: yup.object({
    ids: ids(),
    gain: yup
      .string()
      .oneOf(['drop', 'commit'] as const)
      .default('commit')
  }),
  label: (session, { ids, gain }) => `Dissolve ${counted(session, ids)}${gain === 'commit' ? '' : ', its level dropped'}`,
  plan: (session, { ids, gain }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    return inSequence(session, found.value, ({ id }) => {
      const bus = session.channel.get(id)!;
      if (bus.kind !== 'bus') return refuse('not-a-bus', `${bus.name} is no bus. Only buses can be dissolved.`);
      const fed = rowsBy(session, 'send', 'targetId', id).find(({ levelDb }) => levelDb > -Infinity);
      if (fed)
        return refuse(
          'fed',
          `${bus.name} also gets a send from ${session.channel.get(fed.sourceId)?.name ?? 'a channel'}. Remove it or send it elsewhere first.`
        );
      const key = gain === 'drop' ? rowsBy(session, 'insert', 'keyId', id).find(({ channelId }) => channelId !== id) : null;
      if (key)
        return refuse(
          'key',
          `${session.channel.get(key.channelId)?.name ?? 'A channel'} listens to ${bus.name} as a key. Give it another key first.`
        );
      const moved = gain === 'commit' ? committed(session, bus) : ok([]);
      if (!moved.ok) return moved;
      return inSequence(session, [moved, null], (step) => step ?? channelsRemove.plan(session, { ids: [id], membersTo: undefined }));
    });
  }
});

/** The changes that move a bus's level and mute into what goes into it. */
function committed(session: Session, bus: Channel): Result<Change[]> {
  const cannot = (why: string) => refuse('cannot-commit', `${bus.name} cannot be dissolved with its level kept: ${why}.`);
  const own = insertsOf(session, bus.id).find(({ bypass }) => !bypass);
  if (own) return cannot('it has an insert at work. Bypass it, or dissolve it with its level dropped');
  if (bus.pan !== 0) return cannot('it has a balance. Centre it first');
  const moving = [bus.id, ...idsBy(session, 'channel', 'outputId', bus.id)].find((each) => movesOverTime(session, each));
  if (moving !== undefined)
    return cannot(`the level of ${session.channel.get(moving)!.name} has a lane. Switch it off, or dissolve it with its level dropped`);
  if (bus.polarity) return cannot('its polarity is inverted. Restore it first');
  if (bus.width === 1) return cannot('it is mono');
  if (bus.panRight !== null) return cannot('its sides are placed apart. Give it one pin first');
  if (bus.spread !== 100) return cannot(`its width is ${bus.spread} %. Set it to 100 % first`);
  const members = rowsBy(session, 'channel', 'outputId', bus.id);
  if (bus.resting && members.length) return cannot('it rests: what goes into it would be heard. Wake it first');
  const sent = rowsBy(session, 'send', 'sourceId', bus.id).find(({ on, levelDb }) => on && levelDb > -Infinity);
  if (sent) return cannot(`it sends to ${session.channel.get(sent.targetId)?.name ?? 'a return'}`);
  const [keyed] = rowsBy(session, 'insert', 'keyId', bus.id);
  if (keyed) return cannot(`${session.channel.get(keyed.channelId)?.name ?? 'a channel'} listens to it as a key`);
  // Of its VCAs too: they do not reach its members. What those of the members add stays above them.
  const gain = levelOf(session, bus) + bus.trimDb;
  const muted = mutedOf(session, bus);
  const changes: Change[] = [];
  for (const member of members) {
    const listening = gain === 0 ? null : rowsBy(session, 'insert', 'keyId', member.id).find(({ keyTap }) => keyTap === 'post');
    if (listening)
      return cannot(`${session.channel.get(listening.channelId)?.name ?? 'a channel'} listens to ${member.name} behind its fader as a key`);
    if (gain === 0 && !muted) continue;
    const level = member.faderDb + gain;
    if (level > TOP_DB) return cannot(`${member.name} would pass +12 dB`);
    const sends = rowsBy(session, 'send', 'sourceId', member.id);
    if (gain === -Infinity && sends.some(({ tap }) => tap === 'post')) return cannot('at −∞ it would take its members’ sends with it');
    if (muted && !mutedOf(session, member) && sends.length) return cannot(`it is muted, and the sends of ${member.name} are not`);
    changes.push(...update(session, 'channel', member.id, { faderDb: clampDb(level), mute: member.mute || muted }));
    for (const send of sends) {
      if (send.tap !== 'post' || gain === 0) continue;
      if (send.levelDb - gain > TOP_DB)
        return cannot(`a send of ${member.name} to ${session.channel.get(send.targetId)?.name ?? 'a return'} would pass +12 dB`);
      changes.push(...update(session, 'send', rowId('send', send), { levelDb: clampDb(send.levelDb - gain) }));
    }
  }
  return ok(changes);
}

// Commands for inserts: add, set values, bypass, remove.
import * as yup from 'yup';
import { INSERT_TYPES, newInsert, processors, specsOf } from '../processors/index.ts';
import { ok, refuse } from '../result.ts';
import { POSITION_STEP } from '../session/create.ts';
import { removedWith } from '../session/dependents.ts';
import { creation, removal, update, type Change } from '../session/changes.ts';
import { loopClosedBy } from '../routing/graph.ts';
import { narrowed, widthBehind } from '../routing/width.ts';
import { channelsOf, counted, insertOf, insertsOf } from '../session/select.ts';
import type { Channel, Session } from '../session/entities.ts';
import { linkedBypass, linkedValues } from './linked/inserts.ts';
import { define, id, ids, newId } from './define.ts';
import { field } from './field.ts';
import { handOn, onLane } from './hand.ts';
import { loopRefusal } from './routing.ts';
import { inSequence } from './sequence.ts';

const noAudio = ({ name }: Channel) => `${name} is a VCA: no audio goes through it. Choose another channel.`;
export const titled = (session: Session, insertId: string) => {
  const insert = session.insert.get(insertId);
  if (!insert) return 'insert';
  return `${processors[insert.type].title} of ${session.channel.get(insert.channelId)?.name ?? 'a channel'}`;
};

/**
 * An insert at the end of a channel’s row of them, with default values.
 * @example { "do": "inserts.add", "id": "x", "channelId": "a", "type": "eq" }
 */
export const insertsAdd = define({
  name: 'inserts.add',
  schema: yup.object({
    id: newId().required(),
    channelId: id().required(),
    type: yup.string().oneOf(INSERT_TYPES).required()
  }),
  label: (session, { channelId, type }) => `Add ${processors[type].title} to ${session.channel.get(channelId)?.name ?? 'channel'}`,
  plan: (session, { id, channelId, type }) => {
    const found = channelsOf(session, [channelId]);
    if (!found.ok) return found;
    const [channel] = found.value;
    if (channel.kind === 'vca') return refuse('vca', noAudio(channel));
    if (session.insert.has(id)) return refuse('exists', 'An insert with this id exists already.');
    const last = insertsOf(session, channelId).at(-1)?.position ?? 0;
    return ok([creation('insert', id, newInsert(id, channel, type, last + POSITION_STEP))]);
  }
});

/**
 * Values of an insert’s parameters, in natural units, brought into their range; what is not named stays.
 * @example { "do": "inserts.set", "id": "comp", "values": {"threshold": -24, "ratio": 4} }
 */
export const insertsSet = define({
  name: 'inserts.set',
  schema: yup.object({
    id: id().required(),
    values: yup.mixed<object>((value): value is object => typeof value === 'object' && value !== null && !Array.isArray(value)).required(),
    ...onLane
  }),
  label: (session, { id }) => `Set ${titled(session, id)}`,
  linked: linkedValues,
  plan: (session, { id, values, ...onto }) => {
    const found = insertOf(session, id);
    if (!found.ok) return found;
    const specs = specsOf(found.value.type);
    const { channelId } = found.value;
    const params: Record<string, number> = { ...found.value.params };
    const changes: Change[] = [];
    for (const [name, value] of Object.entries(values)) {
      const spec = specs.get(name);
      if (!spec) return refuse('no-parameter', `There is no parameter “${name}” here.`, { name });
      if (typeof value !== 'number' || Number.isNaN(value)) return refuse('not-a-number', `${spec.label} needs a number.`, { name });
      const within = Math.max(spec.min, Math.min(spec.max, value));
      const to = (spec.choices ? Math.round(within) : within) + 0;
      const hand = handOn(session, [{ asked: { channelId, of: 'param', insertId: id, param: name }, to }], onto);
      if (!hand.ok) return hand;
      changes.push(...hand.value.changes);
      if (hand.value.led.size === 0) params[name] = to;
    }
    return ok([...changes, ...update(session, 'insert', id, { params })]);
  }
});

/**
 * Bypasses inserts, or sets them to work. A bypassed one keeps its latency.
 * @example { "do": "inserts.bypass", "ids": ["comp"], "on": true }
 */
export const insertsBypass = define({
  name: 'inserts.bypass',
  schema: yup.object({ ids: ids(), on: yup.boolean().required(), ...onLane }),
  label: (session, { ids, on }) => `${on ? 'Bypass' : 'Engage'} ${ids.length === 1 ? titled(session, ids[0]) : `${ids.length} inserts`}`,
  linked: linkedBypass,
  plan: (session, { ids, on, ...onto }) => {
    const changes: Change[] = [];
    for (const id of ids) {
      const found = insertOf(session, id);
      if (!found.ok) return found;
      const asked = { channelId: found.value.channelId, of: 'bypass' as const, insertId: id };
      const hand = handOn(session, [{ asked, to: Number(on) }], onto);
      if (!hand.ok) return hand;
      changes.push(...hand.value.changes, ...(hand.value.led.size ? [] : update(session, 'insert', id, { bypass: on })));
    }
    return ok(changes);
  }
});

/**
 * The key input of a processor that has one: a channel at a tap, or null for its own input.
 * @example { "do": "inserts.key", "id": "comp", "source": "c", "tap": "pre" }
 */
export const insertsKey = define({
  name: 'inserts.key',
  schema: yup.object({
    id: id().required(),
    source: id().nullable().default(null),
    tap: field('insert', 'keyTap').default('post')
  }),
  label: (session, { id, source }) =>
    `Key of ${titled(session, id)}: ${source === null ? 'its own input' : (session.channel.get(source)?.name ?? 'a channel')}`,
  plan: (session, { id, source, tap }) => {
    const found = insertOf(session, id);
    if (!found.ok) return found;
    const { type, channelId } = found.value;
    if (!processors[type].keyed) return refuse('no-key', `The ${processors[type].title} has no key input.`);
    if (source !== null) {
      const channel = channelsOf(session, [source]);
      if (!channel.ok) return channel;
      if (channel.value[0].kind === 'vca') return refuse('vca', noAudio(channel.value[0]));
      const own = source === channelId && tap === 'input';
      const loop = own ? null : loopClosedBy(session, [{ from: source, to: channelId, via: 'key' }], new Set());
      if (loop) return loopRefusal(loop);
    }
    return ok(update(session, 'insert', id, { keyId: source, keyTap: tap }));
  }
});

/**
 * Copies of an insert at the end of other channels, key and all; ids are `as` and a number.
 * @example { "do": "inserts.copy", "id": "comp", "to": ["a", "mono"], "as": "x" }
 */
export const insertsCopy = define({
  name: 'inserts.copy',
  schema: yup.object({ id: id().required(), to: ids(), as: newId().required() }),
  label: (session, { id, to }) => `Copy ${titled(session, id)} to ${counted(session, to)}`,
  plan: (session, { id, to, as }) => {
    const found = insertOf(session, id);
    if (!found.ok) return found;
    const targets = channelsOf(session, to);
    if (!targets.ok) return targets;
    const { channelId, keyId, keyTap } = found.value;
    return inSequence(session, targets.value, (channel) => {
      const copy = `${as}:${to.indexOf(channel.id)}`;
      if (channel.kind === 'vca') return refuse('vca', noAudio(channel));
      if (session.insert.has(copy)) return refuse('exists', 'An insert with this id exists already.');
      // A key from the channel's own input stays its own.
      const key = keyId === channelId ? channel.id : keyId;
      const own = key === channel.id && keyTap === 'input';
      const loop = key === null || own ? null : loopClosedBy(session, [{ from: key, to: channel.id, via: 'key' }], new Set());
      if (loop) return loopRefusal(loop);
      const last = insertsOf(session, channel.id).at(-1)?.position ?? 0;
      return ok([
        creation('insert', copy, { ...found.value, id: copy, channelId: channel.id, position: last + POSITION_STEP, keyId: key })
      ]);
    });
  }
});

/**
 * Moves an insert before another of its channel, or to the end.
 * @example { "do": "inserts.move", "id": "trim" }
 */
export const insertsMove = define({
  name: 'inserts.move',
  schema: yup.object({ id: id().required(), before: id().nullable().default(null) }),
  label: (session, { id }) => `Move ${titled(session, id)}`,
  plan: (session, { id, before }) => {
    const found = insertOf(session, id);
    if (!found.ok) return found;
    const rest = insertsOf(session, found.value.channelId).filter((insert) => insert.id !== id);
    const at = before === null ? rest.length : rest.findIndex((insert) => insert.id === before);
    if (at === -1) return refuse('not-found', 'The insert to move before is not on this channel.');
    const order = [...rest.slice(0, at), found.value, ...rest.slice(at)];
    return ok(order.flatMap((insert, i) => update(session, 'insert', insert.id, { position: (i + 1) * POSITION_STEP })));
  }
});

/**
 * Takes an insert off its channel. A mono one that has one side again stands in the middle of its pins.
 * @example { "do": "inserts.remove", "id": "comp" }
 */
export const insertsRemove = define({
  name: 'inserts.remove',
  schema: yup.object({ id: id().required() }),
  label: (session, { id }) => `Remove ${titled(session, id)}`,
  plan: (session, { id }) => {
    const found = insertOf(session, id);
    if (!found.ok) return found;
    const channel = session.channel.get(found.value.channelId)!;
    const rest = insertsOf(session, channel.id).filter((insert) => insert.id !== id);
    const place = widthBehind(channel.width, rest) === 1 ? update(session, 'channel', channel.id, narrowed(channel)) : [];
    return ok([...removedWith(session, new Set([id]), 'insert'), removal(session, 'insert', id), ...place]);
  }
});

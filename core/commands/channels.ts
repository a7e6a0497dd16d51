// Commands that remove, name, colour and order channels.
import * as yup from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { removal, update, type Change } from '../session/changes.ts';
import { MIX, POSITION_STEP } from '../session/create.ts';
import { removedWith } from '../session/dependents.ts';
import { rowsBy } from '../session/lookup.ts';
import type { Channel, Session } from '../session/entities.ts';
import { channelsOf, counted, inOrder, renumbered } from '../session/select.ts';
import { isVca } from '../session/vcas.ts';
import { setField } from './byHand.ts';
import { linkedColours, linkedIds } from './linked/switches.ts';
import { define, hue, id, ids, isHue, isId, isName, rows } from './define.ts';
import { planRoute } from './routing.ts';
import { inSequence } from './sequence.ts';
import { vcasRemove } from './vcas.ts';

/**
 * Removes channels with all that hangs on them; members of a removed bus go to `membersTo`, or one level up.
 * @example { "do": "channels.remove", "ids": ["c"] }
 */
export const channelsRemove = define({
  name: 'channels.remove',
  schema: yup.object({ ids: ids(), membersTo: id().nullable() }),
  label: (session, { ids }) => {
    const gone = new Set(ids);
    const deaf = [...gone].flatMap((id) => rowsBy(session, 'insert', 'keyId', id)).find(({ channelId }) => !gone.has(channelId));
    const where = deaf && session.channel.get(deaf.channelId)?.name;
    const smaller = [...session.link.values()].flatMap(({ id, name }) => {
      const members = rowsBy(session, 'linkMember', 'linkId', id);
      const left = members.filter(({ channelId }) => !gone.has(channelId)).length;
      return left === members.length ? [] : [left ? `${name} has ${left} left` : `${name} goes too`];
    });
    const groups = smaller.length > 2 ? `${smaller.length} link groups have fewer` : smaller.join(', ');
    return `Remove ${counted(session, ids)}${where ? `; a key on ${where} hears nothing now` : ''}${groups ? `; ${groups}` : ''}`;
  },
  plan: (session, { ids, membersTo }) => removed(session, ids, membersTo)
});

function removed(session: Session, ids: readonly string[], membersTo: string | null | undefined): Result<Change[]> {
  const found = channelsOf(session, ids);
  if (!found.ok) return found;
  const gone = new Set(ids);
  if (gone.has(MIX)) return refuse('mix-bus', 'The mix bus stays: every session has one.');
  if (membersTo && (gone.has(membersTo) || !session.channel.has(membersTo)))
    return refuse('not-found', 'The members need a bus that stays. Choose another.');
  // A VCA goes as vcas.remove takes it: what it holds joins those above.
  const vcas = found.value.filter(isVca).map(({ id }) => id);
  if (vcas.length) {
    const rest = ids.filter((id) => !vcas.includes(id));
    return inSequence(session, [vcas, rest], (list) =>
      list.length === 0 ? ok([]) : list === vcas ? vcasRemove.plan(session, { ids: vcas, fold: false }) : removed(session, rest, membersTo)
    );
  }
  const rows: Change[] = removedWith(session, gone);
  const members = [...gone].flatMap((id) => rowsBy(session, 'channel', 'outputId', id)).filter(({ id }) => !gone.has(id));
  for (const member of members) {
    const to = membersTo === undefined ? outputAbove(session, member, gone) : { outputId: membersTo, outputPair: null };
    const routed = planRoute(session, [member.id], to, []);
    if (!routed.ok) return routed;
    rows.push(...routed.value);
  }
  for (const channel of found.value) rows.push(removal(session, 'channel', channel.id));
  return ok(rows);
}

/**
 * Names, each channel its own. `auto`: a rule’s, which leaves alone what a person has named.
 * @example { "do": "channels.rename", "names": [{"id": "a", "name": "Lead voice"}] }
 */
export const channelsRename = define({
  name: 'channels.rename',
  schema: yup.object({
    names: rows<{ id: string; name: string }>({ id: isId, name: isName }),
    auto: yup.boolean()
  }),
  label: (session, { names }) =>
    names.length === 1
      ? `Rename ${session.channel.get(names[0].id)?.name ?? 'channel'} to ${names[0].name}`
      : `Rename ${names.length} channels`,
  plan: (session, { names, auto }) => {
    const found = channelsOf(
      session,
      names.map((entry) => entry.id)
    );
    return found.ok ? ok(names.flatMap(({ id, name }) => setField(session, id, 'name', { name: name.trim() }, auto))) : found;
  }
});

/**
 * One hue for all of these, 0 … < 12; between two whole ones a hue between them.
 * @example { "do": "channels.colour", "ids": ["a"], "colour": 3 }
 */
export const channelsColour = define({
  name: 'channels.colour',
  schema: yup.object({ ids: ids(), colour: hue().required(), auto: yup.boolean() }),
  label: (session, { ids }) => `Colour ${counted(session, ids)}`,
  linked: linkedIds('channels.colour', 'colour'),
  plan: (session, { ids, colour, auto }) => {
    const found = channelsOf(session, ids);
    return found.ok ? ok(ids.flatMap((id) => setField(session, id, 'colour', { colour }, auto))) : found;
  }
});

/**
 * Each channel its own hue: a gradient across a selection.
 * @example { "do": "colours.set", "colours": [{"id": "a", "colour": 3}] }
 */
export const coloursSet = define({
  name: 'colours.set',
  schema: yup.object({
    colours: rows<{ id: string; colour: number }>({ id: isId, colour: isHue })
  }),
  label: (session, { colours }) =>
    `Colour ${counted(
      session,
      colours.map((entry) => entry.id)
    )}`,
  linked: linkedColours,
  plan: (session, { colours }) => {
    const found = channelsOf(
      session,
      colours.map((entry) => entry.id)
    );
    return found.ok ? ok(colours.flatMap(({ id, colour }) => setField(session, id, 'colour', { colour }))) : found;
  }
});

/**
 * Moves channels, in their present order, to stand before another, or after all.
 * @example { "do": "channels.move", "ids": ["a"], "before": "c" }
 */
export const channelsMove = define({
  name: 'channels.move',
  schema: yup.object({ ids: ids(), before: id().nullable().default(null) }),
  label: (session, { ids }) => `Move ${counted(session, ids)}`,
  plan: (session, { ids, before }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    if (before !== null && !session.channel.has(before)) return refuse('not-found', 'The row to move before is no longer there.');
    const moved = new Set(ids);
    const order = inOrder(session);
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
    return ok(renumbered(session, [...staying.slice(0, index), ...moving, ...staying.slice(index)]));
  }
});

/** The first output above a member that is not being removed. */
function outputAbove(session: Session, member: Channel, gone: ReadonlySet<string>) {
  let { outputId, outputPair } = member;
  while (outputId !== null && gone.has(outputId)) ({ outputId, outputPair } = session.channel.get(outputId)!);
  return { outputId, outputPair };
}

// Link groups: channels whose values, switches or edits go together.
import * as yup from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { creation, removal, update, type Change } from '../session/changes.ts';
import { POSITION_STEP } from '../session/create.ts';
import { removedWith } from '../session/dependents.ts';
import { rowId, type Attribute, type Link, type Session } from '../session/entities.ts';
import { newRow } from '../session/tables.ts';
import { ATTRIBUTES } from '../session/tables/link.ts';
import { channelsOf, counted } from '../session/select.ts';
import { define, id, ids, name, newId, trimmed } from './define.ts';
import { field } from './field.ts';

const attributes = () =>
  yup
    .array()
    .of(
      yup
        .string()
        .oneOf([...ATTRIBUTES] as const)
        .required()
    )
    .transform((list: unknown) => (Array.isArray(list) ? [...new Set(list as Attribute[])] : list));
const badge = () => trimmed(8).min(1, 'a badge is a short word');
const members = () => yup.array().of(id().required()).default([]);

const groupOf = (session: Session, linkId: string): Result<Link> => {
  const link = session.link.get(linkId);
  return link ? ok(link) : refuse('not-found', 'This link group is no longer in the session.', { id: linkId });
};
/** In the order in which the table lists them, so that the same set is the same value. */
const inOrder = (list: readonly Attribute[]): Attribute[] => ATTRIBUTES.filter((each) => list.includes(each));
const memberRow = (linkId: string, channelId: string): Change => {
  const row = newRow('linkMember', { linkId, channelId });
  return creation('linkMember', rowId('linkMember', row), row);
};

/**
 * A link group: its members’ `attributes` go together, by difference or all alike, until it is paused.
 * @example { "do": "links.add", "id": "x", "name": "Hand drums", "badge": "skin", "members": ["a", "b"], "attributes": ["level", "mute"] }
 */
export const linksAdd = define({
  name: 'links.add',
  schema: yup.object({
    id: newId().required(),
    name: name().required(),
    badge: badge().required(),
    members: members(),
    attributes: attributes().default(['level', 'mute', 'solo']),
    mode: field('link', 'mode').default('difference')
  }),
  label: (session, { name, members }) => (members.length ? `Link ${counted(session, members)} as ${name}` : `New link group ${name}`),
  plan: (session, { id, name, badge, members, attributes: linked = [], mode }) => {
    if (session.link.has(id)) return refuse('exists', 'A link group with this id exists already.');
    const found = channelsOf(session, members);
    if (!found.ok) return found;
    const position = Math.max(0, ...[...session.link.values()].map((link) => link.position)) + POSITION_STEP;
    const link = newRow('link', { id, name, badge, mode, position, attributes: inOrder(linked) });
    return ok([creation('link', id, link), ...found.value.map((channel) => memberRow(id, channel.id))]);
  }
});

/**
 * A link group’s name, badge, attributes and mode; whether it is active or paused; the keys that pause it and take it up again, which
 * another group then gives up.
 * @example { "do": "links.set", "id": "link", "active": false }
 */
export const linksSet = define({
  name: 'links.set',
  schema: yup.object({
    id: id().required(),
    name: name(),
    badge: badge(),
    attributes: attributes(),
    mode: field('link', 'mode'),
    active: yup.boolean(),
    shortcut: field('link', 'shortcut')
  }),
  label: (session, { id, ...fields }) => {
    const link = session.link.get(id)?.name ?? 'a link group';
    if (fields.active !== undefined) return `${fields.active ? 'Take up' : 'Pause'} ${link}`;
    return fields.name === undefined ? `Change ${link}` : `Rename ${link} to ${fields.name}`;
  },
  plan: (session, { id, attributes, ...fields }) => {
    const found = groupOf(session, id);
    if (!found.ok) return found;
    const taken = fields.shortcut ? [...session.link.values()].filter((link) => link.id !== id && link.shortcut === fields.shortcut) : [];
    const given = Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== undefined));
    return ok([
      ...taken.flatMap((link) => update(session, 'link', link.id, { shortcut: '' })),
      ...update(session, 'link', id, { ...given, ...(attributes ? { attributes: inOrder(attributes) } : {}) })
    ]);
  }
});

/**
 * Members in and out of a link group. `mirrored` names, of all members, those whose pan goes the other way.
 * @example { "do": "links.members", "id": "link", "add": ["c"], "mirrored": ["b"] }
 */
export const linksMembers = define({
  name: 'links.members',
  schema: yup.object({ id: id().required(), add: members(), remove: members(), mirrored: yup.array().of(id().required()) }),
  label: (session, { id, add, remove, mirrored }) => {
    const link = session.link.get(id)?.name ?? 'a link group';
    if (add.length && !remove.length) return `Put ${counted(session, add)} into ${link}`;
    if (remove.length && !add.length) return `Take ${counted(session, remove)} out of ${link}`;
    return mirrored && !add.length ? `Mirrored pans in ${link}` : `Members of ${link}`;
  },
  plan: (session, { id, add, remove, mirrored }) => {
    const found = groupOf(session, id);
    if (!found.ok) return found;
    const joining = channelsOf(session, add);
    if (!joining.ok) return joining;
    const keyOf = (channelId: string) => rowId('linkMember', { linkId: id, channelId, mirrored: false });
    const gone = new Set(remove.map(keyOf).filter((key) => session.linkMember.has(key)));
    const rows = new Map([...session.linkMember].filter(([key, { linkId }]) => linkId === id && !gone.has(key)));
    const fresh = new Set<string>();
    for (const channel of joining.value)
      if (!rows.has(keyOf(channel.id))) {
        rows.set(keyOf(channel.id), newRow('linkMember', { linkId: id, channelId: channel.id }));
        fresh.add(keyOf(channel.id));
      }
    const outside = mirrored?.find((each) => !rows.has(keyOf(each)));
    if (outside)
      return refuse('not-a-member', `${session.channel.get(outside)?.name ?? 'A channel'} is not in ${found.value.name}. Put it in first.`);
    const turned = (channelId: string, now: boolean) => mirrored?.includes(channelId) ?? now;
    return ok([
      ...[...gone].map((key) => removal(session, 'linkMember', key)),
      ...[...rows].flatMap(([key, row]) => {
        const own = { ...row, mirrored: turned(row.channelId, row.mirrored) };
        // Who is taken out and put in again in one command comes in anew.
        return fresh.has(key) && !session.linkMember.has(key)
          ? [creation('linkMember', key, own)]
          : update(session, 'linkMember', key, { mirrored: own.mirrored });
      })
    ]);
  }
});

/**
 * Takes link groups away; their members stay as they are.
 * @example { "do": "links.remove", "ids": ["link"] }
 */
export const linksRemove = define({
  name: 'links.remove',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids }) =>
    ids.length === 1 ? `Remove link group ${session.link.get(ids[0])?.name ?? ''}`.trim() : `Remove ${ids.length} link groups`,
  plan: (session, { ids }) => {
    for (const each of ids) {
      const found = groupOf(session, each);
      if (!found.ok) return found;
    }
    const gone = new Set(ids);
    return ok([...removedWith(session, gone, 'link'), ...[...gone].map((each) => removal(session, 'link', each))]);
  }
});

/**
 * Pauses all link groups, or takes them up again: each is then as it was, active or paused.
 * @example { "do": "links.pause", "on": true }
 */
export const linksPause = define({
  name: 'links.pause',
  schema: yup.object({ on: yup.boolean().required() }),
  label: (_, { on }) => (on ? 'Pause all link groups' : 'Take up link groups'),
  plan: (session, { on }) => ok(update(session, 'settings', 'settings', { linksPaused: on }))
});

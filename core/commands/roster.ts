// Commands of taking stock: roles, dividers, saved sets of what is shown, and a name for a batch.
import * as yup from 'yup';
import { ok, refuse } from '../result.ts';
import { POSITION_STEP } from '../session/create.ts';
import { creation, removal, update } from '../session/changes.ts';
import type { RowFilter, Session } from '../session/entities.ts';
import { matchesFilter } from '../session/filter.ts';
import { FILTER_FIELDS, ROLES } from '../session/roles.ts';
import { channelsOf, counted, inOrder } from '../session/select.ts';
import { setField } from './byHand.ts';
import { define, id, ids, name, newId, text } from './define.ts';
import { field } from './field.ts';

/**
 * What channels are in the music; an empty role is none.
 * @example { "do": "roles.set", "ids": ["a"], "role": "bass" }
 */
export const rolesSet = define({
  name: 'roles.set',
  schema: yup.object({
    ids: ids(),
    role: field('channel', 'role').defined(),
    auto: yup.boolean()
  }),
  label: (session, { ids, role }) => `Role of ${counted(session, ids)}: ${ROLES.find(({ id }) => id === role)?.word ?? 'none'}`,
  plan: (session, { ids, role, auto }) => {
    const found = channelsOf(session, ids);
    return found.ok ? ok(ids.flatMap((id) => setField(session, id, 'role', { role }, auto))) : found;
  }
});

/**
 * A divider with a caption, before a channel or after all; one that is there is captioned or moved.
 * @example { "do": "dividers.set", "id": "x", "caption": "Drums", "before": "a" }
 */
export const dividersSet = define({
  name: 'dividers.set',
  schema: yup.object({ id: newId().required(), caption: name(), before: id().nullable() }),
  label: (session, { id, caption }) =>
    session.divider.has(id) ? `Divider ${caption ?? session.divider.get(id)!.caption}` : `New divider ${caption ?? ''}`.trim(),
  plan: (session, { id, caption, before }) => {
    const present = session.divider.get(id);
    if (before && !session.channel.has(before)) return refuse('not-found', 'The row below this divider is no longer there.');
    const position =
      before === undefined ? (present?.position ?? after(session)) : before === null ? after(session) : above(session, before);
    if (present) return ok(update(session, 'divider', id, { caption: caption ?? present.caption, position }));
    if (!caption) return refuse('bad-arguments', 'A divider needs a caption.');
    return ok([creation('divider', id, { id, caption, position })]);
  }
});

const after = (session: Session) => (inOrder(session).at(-1)?.position ?? 0) + POSITION_STEP / 2;
function above(session: Session, before: string): number {
  const order = inOrder(session);
  const index = order.findIndex(({ id }) => id === before);
  const low = order[index - 1]?.position ?? order[index].position - POSITION_STEP;
  return low + (order[index].position - low) * 0.75;
}

/**
 * Takes dividers away; rows stay where they are.
 * @example { "do": "dividers.remove", "ids": ["line"] }
 */
export const dividersRemove = define({
  name: 'dividers.remove',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids }) =>
    ids.length === 1 ? `Remove divider ${session.divider.get(ids[0])?.caption ?? ''}` : `Remove ${ids.length} dividers`,
  plan: (session, { ids }) => ok(ids.filter((id) => session.divider.has(id)).map((id) => removal(session, 'divider', id)))
});

const filter = yup.object(Object.fromEntries(FILTER_FIELDS.map((field) => [field, text(120).defined()])));

/**
 * Keeps what is shown under a number: the rows of a filter, or exactly these. A set that has the number gives way.
 * @example { "do": "showings.save", "id": "x", "number": 1, "name": "Rhythm", "ids": ["a", "b"] }
 */
export const showingsSave = define({
  name: 'showings.save',
  schema: yup.object({
    id: newId().required(),
    number: field('showing', 'number').required(),
    name: name().required(),
    ids: yup.array().of(id().required()).nullable().default(null),
    filter: filter.nullable().default(null)
  }),
  label: (_, { number, name }) => `Keep set ${number}: ${name}`,
  plan: (session, { id, number, name, ids, filter }) => {
    if ((ids === null) === (filter === null)) return refuse('bad-arguments', 'A set is either a list of rows or a filter.');
    const gone = [...session.showing.values()].filter((row) => row.number === number || row.id === id);
    return ok([
      ...gone.map((row) => removal(session, 'showing', row.id)),
      creation('showing', id, { id, number, name, ids, filter: filter as RowFilter | null })
    ]);
  }
});

/**
 * Forgets kept sets of rows.
 * @example { "do": "showings.remove", "ids": ["set"] }
 */
export const showingsRemove = define({
  name: 'showings.remove',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids }) => `Forget set ${session.showing.get(ids[0])?.name ?? ''}`.trim(),
  plan: (session, { ids }) => ok(ids.filter((id) => session.showing.has(id)).map((id) => removal(session, 'showing', id)))
});

/**
 * Shows just what a saved set names; the mix bus and VCAs are always shown. Without an id everything is.
 * @example { "do": "showings.recall", "id": "set" }
 */
export const showingsRecall = define({
  name: 'showings.recall',
  schema: yup.object({ id: id() }),
  label: (session, { id }) => (id ? `Show set ${session.showing.get(id)?.name ?? ''}`.trim() : 'Show all'),
  plan: (session, { id }) => {
    const set = id === undefined ? null : session.showing.get(id);
    if (set === undefined) return refuse('not-found', 'This set is no longer kept.');
    const listed = set?.ids ? new Set(set.ids) : null;
    return ok(
      [...session.channel.values()].flatMap((channel) => {
        const shown =
          !set ||
          channel.kind === 'mix' ||
          channel.kind === 'vca' ||
          (listed ? listed.has(channel.id) : matchesFilter(session, channel, set.filter!));
        return update(session, 'channel', channel.id, { hidden: !shown });
      })
    );
  }
});

/**
 * Changes nothing: first in a batch, it names the batch in the undo list.
 * @example { "do": "batch.name", "text": "Tidy up" }
 */
export const batchName = define({
  name: 'batch.name',
  schema: yup.object({ text: text(120).min(1).required() }),
  label: (_, { text }) => text,
  plan: () => ok([])
});

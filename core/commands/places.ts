// Markers and ranges: places and stretches of the timeline with names.
import * as yup from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { creation, removal, update, type Change } from '../session/changes.ts';
import { DAY_S } from '../session/check.ts';
import { settingsOf, type Session } from '../session/entities.ts';
import { newRow } from '../session/tables.ts';
import { define, hue, ids, name, newId, whole } from './define.ts';

const tooFar = (session: Session, end: number | undefined): Result<never> | null =>
  end !== undefined && end > DAY_S * settingsOf(session).rate
    ? refuse('too-large', 'The timeline is a day long at most. Choose an earlier place.')
    : null;

/** Removals of rows by id, each once; `what` says in words what they are. */
function gone(session: Session, table: 'marker' | 'range', given: readonly string[]): Result<Change[]> {
  const lost = given.find((id) => !session[table].has(id));
  if (lost) return refuse('not-found', `This ${table} is no longer in the session.`, { id: lost });
  return ok([...new Set(given)].map((id) => removal(session, table, id)));
}
const removing = (session: Session, table: 'marker' | 'range', given: readonly string[]): string =>
  given.length === 1 ? `Remove ${table} ${session[table].get(given[0])?.name ?? ''}`.trim() : `Remove ${given.length} ${table}s`;

/**
 * A marker: new at frame `at`, or another name, colour or place of one that is there.
 * @example { "do": "markers.set", "id": "verse", "name": "Verse", "at": 96000, "colour": 3 }
 */
export const markersSet = define({
  name: 'markers.set',
  schema: yup.object({ id: newId().required(), name: name(), colour: hue(), at: whole() }),
  label: (session, { id, name: given, at }) => {
    const was = session.marker.get(id);
    if (!was) return `Mark ${given ?? 'a place'}`;
    return at === undefined ? `Change marker ${was.name}` : `Move marker ${was.name}`;
  },
  plan: (session, { id, ...fields }) => {
    const far = tooFar(session, fields.at);
    if (far) return far;
    const given = Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== undefined));
    if (session.marker.has(id)) return ok(update(session, 'marker', id, given));
    if (fields.at === undefined || fields.name === undefined)
      return refuse('bad-arguments', 'A new marker needs a name and “at”, in frames.');
    return ok([creation('marker', id, newRow('marker', { id, at: fields.at, name: fields.name, colour: fields.colour ?? 0 }))]);
  }
});

/**
 * Takes markers away.
 * @example { "do": "markers.remove", "ids": ["mark"] }
 */
export const markersRemove = define({
  name: 'markers.remove',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids: given }) => removing(session, 'marker', given),
  plan: (session, { ids: given }) => gone(session, 'marker', given)
});

/**
 * A range of the timeline, from frame `from` to before `to`: new, or another name, colour or extent of one that is there. By its name it
 * is looped, measured and printed.
 * @example { "do": "ranges.set", "id": "chorus", "name": "Chorus", "from": 96000, "to": 192000 }
 */
export const rangesSet = define({
  name: 'ranges.set',
  schema: yup.object({ id: newId().required(), name: name(), colour: hue(), from: whole(), to: whole() }),
  label: (session, { id, name: given, from, to }) => {
    const was = session.range.get(id);
    if (!was) return `New range ${given ?? ''}`.trim();
    return from === undefined && to === undefined ? `Change range ${was.name}` : `Move range ${was.name}`;
  },
  plan: (session, { id, from, to, ...fields }) => {
    const was = session.range.get(id);
    const begin = from ?? was?.start;
    const end = to ?? (was && was.start + was.length);
    if (begin === undefined || end === undefined || (!was && fields.name === undefined))
      return refuse('bad-arguments', 'A new range needs a name, “from” and “to”, in frames.');
    if (begin >= end) return refuse('bad-arguments', 'A range ends after it begins: give a later “to”.');
    const far = tooFar(session, end);
    if (far) return far;
    const extent = { start: begin, length: end - begin };
    const given = Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== undefined));
    if (was) return ok(update(session, 'range', id, { ...given, ...extent }));
    return ok([creation('range', id, newRow('range', { id, name: fields.name!, colour: fields.colour ?? 0, ...extent }))]);
  }
});

/**
 * Takes ranges away; what lies in them stays.
 * @example { "do": "ranges.remove", "ids": ["range"] }
 */
export const rangesRemove = define({
  name: 'ranges.remove',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids: given }) => removing(session, 'range', given),
  plan: (session, { ids: given }) => gone(session, 'range', given)
});

// The gate: what may be kept. Whatever planned a change, what it would write meets the schema that packages are read by, and the rules
// that a schema cannot say.
import { Ajv, type ValidateFunction } from 'ajv';
import { specsOf } from '../processors/index.ts';
import { strangeLane, strangePoint } from '../lanes/check.ts';
import { loopIn } from '../routing/graph.ts';
import { ok, refuse, type Refusal, type Result } from '../result.ts';
import type { Change } from '../session/changes.ts';
import { checkSession } from '../session/check.ts';
import type { Insert, Session, TableName } from '../session/entities.ts';
import { columnsOf, columnsWhere, described, encodeFields } from '../session/tables.ts';
import { fieldSchema } from './schema.ts';

const ajv = new Ajv({ strict: false, allErrors: false });
const validators = new Map<string, ValidateFunction>();

function validatorOf(table: TableName, name: string): ValidateFunction {
  const key = `${table} ${name}`;
  const known = validators.get(key);
  if (known) return known;
  const made = ajv.compile(fieldSchema(table, name));
  validators.set(key, made);
  return made;
}

/** Fields by which rows refer to each other or routing is made: only what touches them can contradict the rest. */
const STRUCTURE = columnsWhere(({ structural }) => structural === true);
const isStructural = ({ table, before, after }: Change) =>
  ((!before || !after) && !described(table).leaf) || Object.keys(after ?? {}).some((name) => STRUCTURE[table].has(name));

/** What is wrong with a whole session beyond its rows’ shapes, or null. */
export function contradiction(session: Session): Refusal | null {
  const checked = checkSession(session);
  if (!checked.ok) return checked.error;
  for (const lane of session.lane.values()) {
    const strange = strangeLane(session, lane);
    if (strange) return strange;
  }
  const loop = loopIn(session);
  return loop && { code: 'loop', message: `The session’s routing feeds back: ${loop.join(' → ')}.`, data: { stations: loop } };
}

/** What an insert has that its processor cannot take, or null. */
export function strangeParameter(session: Session, { type, params, channelId }: Insert): Refusal | null {
  const specs = specsOf(type);
  const at = `The ${type} on ${session.channel.get(channelId)?.name ?? 'a channel'}`;
  for (const [name, value] of Object.entries(params)) {
    const spec = specs.get(name);
    if (!spec) return { code: 'invalid', message: `${at} has no parameter “${name}”.` };
    if (!(value >= spec.min && value <= spec.max) || (spec.choices && !Number.isInteger(value)))
      return { code: 'invalid', message: `${at} cannot have ${spec.label} at ${value}.` };
  }
  return null;
}

/**
 * Whether changes may be written; `session` is as it would be with them. Rows are checked field by field, the session as a whole only
 * where something was born, went, or is connected otherwise.
 */
export function fits(session: Session, changes: readonly Change[]): Result<null> {
  for (const { table, key, before, after } of changes) {
    if (after === null) continue;
    const strange =
      (table === 'insert' && strangeParameter(session, session.insert.get(key)!)) ||
      (table === 'point' && strangePoint(session, session.point.get(key)!));
    if (strange) return { ok: false, error: strange };
    const names = before === null ? Object.keys(columnsOf(table)) : Object.keys(after);
    const row = encodeFields(table, after as Record<string, unknown>);
    for (const name of names) {
      if (!Object.hasOwn(columnsOf(table), name)) return refuse('invalid', `Rows of ${table} have no field “${name}”.`);
      const valid = validatorOf(table, name);
      if (!valid(row[name]))
        return refuse('invalid', `${table}.${name} cannot be kept: it ${valid.errors?.[0]?.message ?? 'does not fit'}.`);
    }
    const more = Object.keys(after).find((name) => !Object.hasOwn(columnsOf(table), name));
    if (more) return refuse('invalid', `Rows of ${table} have no field “${more}”.`);
  }
  if (!changes.some(isStructural)) return ok(null);
  const wrong = contradiction(session);
  return wrong ? { ok: false, error: wrong } : ok(null);
}

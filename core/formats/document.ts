// session.json: a session as a document with a version. Old versions are brought forward; what comes in is checked against
// the published schema and then against the rules that a schema cannot say.
import { Ajv } from 'ajv';
import { bringApart } from '../clips/apart.ts';
import { parseJson } from '../json.ts';
import { ok, refuse, type Result } from '../result.ts';
import type { Session, TableName } from '../session/entities.ts';
import {
  ADDED_TABLES,
  completed,
  DOCUMENT_VERSION,
  decodeSession,
  encodeSession,
  tableNames,
  type SessionDocument
} from '../session/tables.ts';
import { strangePoint } from '../lanes/check.ts';
import { contradiction, strangeParameter } from './gate.ts';
import { DOCUMENT_FORMAT, sessionSchema } from './schema.ts';

export type Document = { readonly format: string; readonly version: number; readonly session: SessionDocument };

type Loose = Record<string, unknown>;
type Tables = Record<string, Loose[]>;

const valid = new Ajv({ strict: false, allErrors: false }).compile(sessionSchema);

export const writeDocument = (session: Session): string =>
  JSON.stringify({ format: DOCUMENT_FORMAT, version: DOCUMENT_VERSION, session: encodeSession(session) }, null, 1);

/** The session that a document holds, or what is wrong with it. What could be mended is, and said in `mended`. */
export function readDocument(text: string, mended: string[] = []): Result<Session> {
  const given = parseJson(text);
  if (!given.ok) return refuse('not-json', `session.json cannot be read: ${given.error.message.replace(/\.$/, '')}.`);
  const head = given.value as Partial<Document> | null;
  if (typeof head !== 'object' || head === null || head.format !== DOCUMENT_FORMAT || typeof head.version !== 'number')
    return refuse('not-a-session', 'session.json is not an Isotaxis session.');
  if (head.version > DOCUMENT_VERSION)
    return refuse(
      'newer',
      `This package was made by a newer Isotaxis (version ${head.version} of the format; this one reads up to ${DOCUMENT_VERSION}). Install that one, or a later one, to open it.`
    );
  return sessionIn(head as Document, mended);
}

/** The session that tables of any age hold, those of later versions with what they stand for. */
export const sessionOf = (tables: unknown, mended: string[] = []): Result<Session> =>
  sessionIn({ format: DOCUMENT_FORMAT, version: 1, session: tables as SessionDocument }, mended);

function sessionIn(document: Document, mended: string[]): Result<Session> {
  const forward = broughtForward(document);
  if (!forward || !valid(forward)) {
    const first = valid.errors?.[0];
    return refuse(
      'invalid',
      `session.json does not fit its schema: ${forward && first ? `${first.instancePath || '/'} ${first.message}` : 'tables are missing'}.`
    );
  }
  const session = decodeSession(forward.session);
  for (const [table, list] of Object.entries(forward.session))
    if (session[table as keyof Session].size !== list.length)
      return refuse('inconsistent', `The session contradicts itself: two rows of ${table} have one key.`);
  mended.push(...bringApart(session));
  const strange =
    [...session.insert.values()].map((insert) => strangeParameter(session, insert)).find((wrong) => wrong !== null) ??
    [...session.point.values()].map((point) => strangePoint(session, point)).find((wrong) => wrong !== null);
  const checked = strange ?? contradiction(session);
  return checked ? { ok: false, error: checked } : ok(session);
}

/** A document of this version or an older one, with what was added since; null where tables are missing. */
function broughtForward(document: Document): Document | null {
  const given = document.session as unknown as Tables | null;
  if (typeof given !== 'object' || given === null) return null;
  if (!Number.isInteger(document.version) || document.version < 1) return null;
  const old = document.version < DOCUMENT_VERSION;
  const session: Tables = {};
  for (const table of Object.keys(given)) {
    const list = given[table];
    if (!Array.isArray(list)) return null;
    const plain = list.every((row) => typeof row === 'object' && row !== null);
    session[table] =
      old && plain && (tableNames as string[]).includes(table) ? list.map((row) => completed(table as TableName, row)) : list;
  }
  if (old) for (const table of ADDED_TABLES) session[table] ??= [];
  if (tableNames.some((table) => !session[table])) return null;
  return { format: document.format, version: old ? DOCUMENT_VERSION : document.version, session: session as unknown as SessionDocument };
}

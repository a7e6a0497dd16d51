// session.json: a session as a document with a version. Old versions are brought forward; what comes in is checked against
// the published schema and then against the rules that a schema cannot say.
import { Ajv } from 'ajv';
import { loopIn } from '../routing/graph.ts';
import { ok, refuse, type Result } from '../result.ts';
import { checkSession } from '../session/check.ts';
import type { Session } from '../session/entities.ts';
import { decodeSession, encodeSession, type SessionDocument } from '../session/tables.ts';
import { DOCUMENT_FORMAT, DOCUMENT_VERSION, sessionSchema } from './schema.ts';

export type Document = { readonly format: string; readonly version: number; readonly session: SessionDocument };

type Loose = Record<string, unknown>;
type Tables = Record<string, Loose[]>;

/** From each older version to the next. */
const FORWARD: Readonly<Record<number, (session: Tables) => Tables>> = {
  1: (session) => ({
    ...session,
    settings: session.settings.map((row) => ({ zero: 0, ...row })),
    channel: session.channel.map((row) => ({ trimDb: 0, polarity: false, ...row })),
    send: session.send.map((row) => ({ mono: false, pan: null, ...row })),
    insert: session.insert.map((row) => ({ keyId: null, keyTap: 'post', ...row })),
    clip: session.clip.map((row) => ({ channel: 0, ...row })),
    media: session.media.map((row) => ({ origin: null, ...row }))
  })
};

const valid = new Ajv({ strict: false, allErrors: false }).compile(sessionSchema);

export const writeDocument = (session: Session): string =>
  JSON.stringify({ format: DOCUMENT_FORMAT, version: DOCUMENT_VERSION, session: encodeSession(session) }, null, 1);

/** The session that a document holds, or what is wrong with it. */
export function readDocument(text: string): Result<Session> {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    return refuse('not-json', `session.json is not JSON: ${error.message}.`);
  }
  const head = given as Partial<Document> | null;
  if (typeof head !== 'object' || head === null || head.format !== DOCUMENT_FORMAT || typeof head.version !== 'number')
    return refuse('not-a-session', 'session.json is not an Isotaxis session.');
  if (head.version > DOCUMENT_VERSION)
    return refuse(
      'newer',
      `This package was made by a newer Isotaxis (version ${head.version} of the format; this one reads up to ${DOCUMENT_VERSION}).`
    );
  const forward = broughtForward(head as Document);
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
  const checked = checkSession(session);
  if (!checked.ok) return checked;
  const loop = loopIn(session);
  if (loop) return refuse('loop', `The session’s routing feeds back: ${loop.join(' → ')}.`, { stations: loop });
  return ok(session);
}

function broughtForward(document: Document): Document | null {
  let { version } = document;
  let session = document.session as unknown as Tables;
  const whole = (given: Tables) =>
    ['settings', 'channel', 'send', 'insert', 'clip', 'media'].every((table) => Array.isArray(given?.[table]));
  const plain = (given: Tables) => Object.values(given).every((list) => list.every((row) => typeof row === 'object' && row !== null));
  if (typeof session !== 'object' || session === null || !whole(session)) return null;
  for (; version < DOCUMENT_VERSION; version++) {
    const step = FORWARD[version];
    if (!step || !plain(session)) return null;
    session = step(session);
  }
  return { format: document.format, version, session: session as unknown as SessionDocument };
}

// Templates: the structure of a session without its recordings, as a document; and a new session from one.
import { readDocument, writeDocument } from '../formats/document.ts';
import { parseJson } from '../json.ts';
import { processors } from '../processors/index.ts';
import { ok, refuse, type Result } from '../result.ts';
import { cleaned } from '../text.ts';
import { rowId, type Point, type Session, type TableName } from '../session/entities.ts';
import { described, freshInTemplates, tableNames } from '../session/tables.ts';
import { readRuleBook, type RuleBook } from './ruleBook.ts';

export const TEMPLATE_FORMAT = 'isotaxis-template';
const VERSION = 1;

export type Template = { readonly name: string; readonly session: Session; readonly rules: RuleBook | null; readonly lanes?: boolean };

/** Tables that a template has where it is asked for. */
const ON_REQUEST: ReadonlySet<TableName> = new Set(['lane', 'point']);

/** The session's structure: all but what the tables' descriptions keep out of templates, and nobody soloed; `lanes` if they are wanted. */
export const structureOf = (session: Session, lanes = false): Session =>
  Object.fromEntries(
    tableNames.map((table) => {
      if (described(table).notInTemplates && !(lanes && ON_REQUEST.has(table))) return [table, new Map()];
      const fresh = freshInTemplates(table);
      return [table, new Map([...session[table]].map(([key, row]) => [key, { ...row, ...fresh }]))];
    })
  ) as unknown as Session;

export const writeTemplate = ({ name, session, rules, lanes }: Template): string =>
  JSON.stringify(
    { format: TEMPLATE_FORMAT, version: VERSION, name, rules, document: JSON.parse(writeDocument(structureOf(session, lanes))) as unknown },
    null,
    1
  );

/** A template that came from outside or from the store; effects that are not known here are named. */
export function readTemplate(text: string): Result<Template> {
  const parsed = parseJson(text);
  if (!parsed.ok) return refuse('not-json', `The template cannot be read: ${parsed.error.message}.`);
  const given = parsed.value as { format?: unknown; version?: unknown; name?: unknown; rules?: unknown; document?: unknown } | null;
  if (typeof given !== 'object' || given?.format !== TEMPLATE_FORMAT || typeof given.name !== 'string' || !cleaned(given.name, 120))
    return refuse('not-a-template', 'This is not an Isotaxis template.');
  if (typeof given.version !== 'number' || given.version > VERSION)
    return refuse(
      'newer',
      `This template was made by a newer Isotaxis (version ${String(given.version)}; this one reads up to ${VERSION}). Install that one, or a later one, to use it.`
    );
  const unknown = unknownEffect(given.document);
  if (unknown)
    return refuse(
      'unknown-effect',
      `The template uses the effect “${unknown.type}” on ${unknown.channel}, which this Isotaxis does not know. Open it where it was made, take the effect off, and keep it anew.`,
      unknown
    );
  const session = readDocument(JSON.stringify(given.document));
  if (!session.ok)
    return { ok: false, error: { ...session.error, message: session.error.message.replaceAll('session.json', 'The template') } };
  if (session.value.clip.size || session.value.media.size)
    return refuse('not-a-template', 'A template holds no recordings; this one does.');
  const rules = given.rules == null ? ok(null) : readRuleBook(given.rules);
  return rules.ok
    ? ok({ name: cleaned(given.name, 120), session: session.value, rules: rules.value, lanes: session.value.lane.size > 0 })
    : rules;
}

function unknownEffect(document: unknown): { type: string; channel: string } | null {
  const tables = (document as { session?: Record<string, unknown> } | null)?.session;
  const rows = (name: string) => (Array.isArray(tables?.[name]) ? (tables[name] as Record<string, unknown>[]) : []);
  const insert = rows('insert').find((row) => typeof row?.type === 'string' && !Object.hasOwn(processors, row.type));
  if (!insert) return null;
  const channel = rows('channel').find((row) => row?.id === insert.channelId)?.name;
  return { type: String(insert.type), channel: typeof channel === 'string' ? channel : 'a channel' };
}

/** A session of a template's structure under another name and rate, nothing poured in yet. */
export function sessionFrom({ session }: Template, { name, rate }: { readonly name: string; readonly rate: number }): Session {
  const own = session.settings.get('settings')!;
  const { rate: from } = own;
  // Lengths stay as long in time, and places where they are.
  const [fadeIn, fadeOut] = [own.fadeIn, own.fadeOut].map((frames) => Math.round((frames * rate) / own.rate));
  const settings = { ...own, name, rate, zero: 0, fadeIn, fadeOut };
  const points = new Map<string, Point>();
  for (const point of session.point.values()) {
    const own = { ...point, at: Math.round((point.at * rate) / from) };
    points.set(rowId('point', own), own);
  }
  return { ...structureOf(session, true), point: points, settings: new Map([['settings', settings]]) };
}

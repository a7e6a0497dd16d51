// The published JSON Schema of session.json: made from the one description of the tables, with the ranges of each field.
import { INSERT_TYPES } from '../dsp/params.ts';
import { tableNames, tables, type ColumnType } from '../session/tables.ts';
import type { TableName } from '../session/entities.ts';

/** Version of the document; older ones are brought forward by `document.ts`. */
export const DOCUMENT_VERSION = 2;
export const DOCUMENT_FORMAT = 'isotaxis-session';

type Schema = Readonly<Record<string, unknown>>;

const id: Schema = { type: 'string', pattern: '^[\\w:.-]{1,80}$' };
const orNull = (schema: Schema): Schema => ({ anyOf: [schema, { type: 'null' }] });
const oneOf = (...values: readonly (string | number)[]): Schema => ({ enum: values });
const frames: Schema = { type: 'integer', minimum: 0, maximum: Number.MAX_SAFE_INTEGER };
const text = (most: number): Schema => ({ type: 'string', minLength: 1, maxLength: most });
const between = (minimum: number, maximum: number): Schema => ({ type: 'number', minimum, maximum });
const level: Schema = { anyOf: [{ type: 'number', minimum: -120, maximum: 12 }, { const: '-inf' }] };
const sha256: Schema = { type: 'string', pattern: '^[0-9a-f]{64}$' };
const tap = oneOf('input', 'pre', 'post');
const rate: Schema = { type: 'integer', minimum: 1000, maximum: 768000 };

/** Fields that the type of their column does not say all of. */
const FIELDS: { readonly [T in TableName]: Readonly<Record<string, Schema>> } = {
  settings: {
    id: { const: 'settings' },
    name: text(120),
    rate,
    bpm: between(20, 400),
    beatsPerBar: { type: 'integer', minimum: 1, maximum: 16 },
    panLaw: oneOf(-3, -4.5, -6, 0),
    zero: frames
  },
  channel: {
    id,
    kind: oneOf('track', 'bus', 'return', 'mix'),
    name: text(120),
    colour: { type: 'integer', minimum: 0, maximum: 11 },
    born: frames,
    width: oneOf(1, 2),
    outputId: orNull(id),
    outputPair: orNull({ type: 'integer', minimum: 0, maximum: 63 }),
    trimDb: level,
    faderDb: level,
    pan: between(-100, 100)
  },
  send: { sourceId: id, targetId: id, levelDb: level, tap, pan: orNull(between(-100, 100)) },
  insert: {
    id,
    channelId: id,
    type: oneOf(...INSERT_TYPES),
    keyId: orNull(id),
    keyTap: tap,
    params: { type: 'object', additionalProperties: { type: 'number' } }
  },
  clip: {
    id,
    channelId: id,
    mediaId: id,
    start: frames,
    offset: frames,
    length: { ...frames, minimum: 1 },
    channel: { type: 'integer', minimum: 0, maximum: 255 }
  },
  media: {
    id,
    name: { type: 'string', maxLength: 255 },
    sha256,
    rate,
    channels: { type: 'integer', minimum: 1, maximum: 256 },
    frames: { ...frames, minimum: 1 },
    encoding: oneOf('s16', 's24', 's32', 'f32', 'f64'),
    peakDb: { anyOf: [{ type: 'number' }, { const: '-inf' }] },
    origin: orNull({
      type: 'object',
      properties: { format: text(40), sha256, rate },
      required: ['format', 'sha256', 'rate'],
      additionalProperties: false
    })
  }
};

const PLAIN: Record<ColumnType, Schema> = {
  text: { type: 'string' },
  number: { type: 'number' },
  db: level,
  bool: { type: 'boolean' },
  json: {}
};

const rows = (table: TableName): Schema => {
  const columns = tables[table] as Record<string, ColumnType>;
  return {
    type: 'array',
    maxItems: 200_000,
    items: {
      type: 'object',
      properties: Object.fromEntries(Object.entries(columns).map(([name, type]) => [name, FIELDS[table][name] ?? PLAIN[type]])),
      required: Object.keys(columns),
      additionalProperties: false
    }
  };
};

export const sessionSchema: Schema = {
  $schema: 'http://json-schema.org/draft-07/schema#',
  title: 'Isotaxis session',
  description: 'session.json of a session package. Levels are dB, or "-inf"; positions and lengths are frames at the session’s rate.',
  type: 'object',
  properties: {
    format: { const: DOCUMENT_FORMAT },
    version: { const: DOCUMENT_VERSION },
    session: {
      type: 'object',
      properties: Object.fromEntries(tableNames.map((table) => [table, rows(table)])),
      required: tableNames,
      additionalProperties: false
    }
  },
  required: ['format', 'version', 'session'],
  additionalProperties: false
};

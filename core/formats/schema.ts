// The published JSON Schema of session.json: made from the one description of the tables, with the ranges of each field.
import { INSERT_TYPES } from '../dsp/params.ts';
import { PLAIN_PATTERN } from '../text.ts';
import { MOST_FRAMES } from '../units.ts';
import { FILTER_FIELDS, HAND_FIELDS, ROLES } from '../session/roles.ts';
import { tableNames, tables, type ColumnType } from '../session/tables.ts';
import type { TableName } from '../session/entities.ts';

/** Version of the document; older ones are brought forward by `document.ts`. */
export const DOCUMENT_VERSION = 4;
export const DOCUMENT_FORMAT = 'isotaxis-session';

type Schema = Readonly<Record<string, unknown>>;

const id: Schema = { type: 'string', pattern: '^[\\w:.-]{1,80}$', not: { enum: Object.getOwnPropertyNames(Object.prototype) } };
const orNull = (schema: Schema): Schema => ({ anyOf: [schema, { type: 'null' }] });
const oneOf = (...values: readonly (string | number)[]): Schema => ({ enum: values });
const frames: Schema = { type: 'integer', minimum: 0, maximum: MOST_FRAMES };
const finite: Schema = { type: 'number', minimum: -Number.MAX_VALUE, maximum: Number.MAX_VALUE };
const plain = (most: number): Schema => ({ type: 'string', maxLength: most, pattern: PLAIN_PATTERN });
const text = (most: number): Schema => ({ ...plain(most), minLength: 1 });
const between = (minimum: number, maximum: number): Schema => ({ type: 'number', minimum, maximum });
const level: Schema = { anyOf: [{ type: 'number', minimum: -120, maximum: 12 }, { const: '-inf' }] };
const sha256: Schema = { type: 'string', pattern: '^[0-9a-f]{64}$' };
const tap = oneOf('input', 'pre', 'post');
const rate: Schema = { type: 'integer', minimum: 1000, maximum: 768000 };

const pulses: Readonly<Record<string, Schema>> = { levelDb: between(-120, 0), length: between(0, 10_000), decay: between(0, 10_000) };
const many = (items: Schema): Schema => ({ type: 'array', items, maxItems: 100_000 });
const patternOf = (of: string, fields: Readonly<Record<string, Schema>>): Schema => ({
  type: 'object',
  properties: { of: { const: of }, ...pulses, ...fields },
  required: ['of', ...Object.keys(pulses), ...Object.keys(fields)],
  additionalProperties: false
});
const pattern: Schema = {
  anyOf: [
    patternOf('pulse', { every: between(1 / 32, 64), accentDb: between(0, 24) }),
    patternOf('notes', {
      file: plain(255),
      at: many({ type: 'number', minimum: 0, maximum: MOST_FRAMES }),
      velocity: many(between(0, 1))
    }),
    patternOf('onsets', { trackId: id, at: many(frames) })
  ]
};

/** Fields that the type of their column does not say all of. */
const FIELDS: { readonly [T in TableName]: Readonly<Record<string, Schema>> } = {
  settings: {
    id: { const: 'settings' },
    name: text(120),
    rate,
    bpm: between(20, 400),
    beatsPerBar: { type: 'integer', minimum: 1, maximum: 16 },
    panLaw: oneOf(-3, -4.5, -6, 0),
    zero: { ...frames, maximum: Number.MAX_SAFE_INTEGER },
    soloDimDb: orNull(between(-60, 0)),
    lastSolo: { type: 'array', items: id },
    interfaceName: text(60),
    interfaceOutputs: { type: 'integer', minimum: 2, maximum: 128, multipleOf: 2 }
  },
  channel: {
    id,
    kind: oneOf('track', 'bus', 'return', 'mix', 'cue', 'key'),
    name: text(120),
    colour: { type: 'number', minimum: 0, exclusiveMaximum: 12 },
    role: oneOf('', ...ROLES.map(({ id: role }) => role)),
    byHand: { type: 'string', pattern: `^(${HAND_FIELDS.join('|')}| )*$` },
    born: { type: 'integer', minimum: 0, maximum: 2 ** 31 - 1 },
    position: finite,
    column: finite,
    width: oneOf(1, 2),
    outputId: orNull(id),
    outputPair: orNull({ type: 'integer', minimum: 0, maximum: 63 }),
    trimDb: level,
    faderDb: level,
    pan: between(-100, 100),
    panRight: orNull(between(-100, 100)),
    spread: between(0, 200),
    pattern: orNull(pattern)
  },
  send: { sourceId: id, targetId: id, levelDb: level, tap, pan: orNull(between(-100, 100)) },
  insert: {
    id,
    channelId: id,
    type: oneOf(...INSERT_TYPES),
    keyId: orNull(id),
    keyTap: tap,
    position: finite,
    params: { type: 'object', additionalProperties: finite }
  },
  clip: {
    id,
    channelId: id,
    mediaId: id,
    start: frames,
    offset: frames,
    length: { ...frames, minimum: 1 },
    channel: { type: 'integer', minimum: 0, maximum: 255 },
    side: oneOf('both', 'left', 'right')
  },
  media: {
    id,
    name: plain(255),
    sha256,
    rate,
    channels: { type: 'integer', minimum: 1, maximum: 256 },
    frames: { ...frames, minimum: 1 },
    encoding: oneOf('s16', 's24', 's32', 'f32', 'f64'),
    peakDb: { anyOf: [finite, { const: '-inf' }] },
    origin: orNull({
      type: 'object',
      properties: { format: text(40), sha256, rate },
      required: ['format', 'sha256', 'rate'],
      additionalProperties: false
    }),
    loudness: orNull({ type: 'array', maxItems: 257, items: orNull(finite) })
  },
  divider: { id, caption: text(120), position: finite },
  showing: {
    id,
    number: { type: 'integer', minimum: 1, maximum: 9 },
    name: text(120),
    ids: orNull({ type: 'array', items: id }),
    filter: orNull({
      type: 'object',
      properties: Object.fromEntries(FILTER_FIELDS.map((name) => [name, plain(120)])),
      required: FILTER_FIELDS,
      additionalProperties: false
    })
  },
  cueToken: { id: { type: 'string', pattern: '^[\\w-]{20,80}$' }, channelId: id }
};

const PLAIN: Record<ColumnType, Schema> = {
  text: { type: 'string' },
  number: { type: 'number' },
  db: level,
  bool: { type: 'boolean' },
  json: {}
};

/** The schema of one field. */
export const fieldSchema = (table: TableName, name: string): Schema =>
  FIELDS[table][name] ?? PLAIN[(tables[table] as Record<string, ColumnType>)[name]];

const rows = (table: TableName): Schema => {
  const columns = tables[table] as Record<string, ColumnType>;
  return {
    type: 'array',
    maxItems: 200_000,
    items: {
      type: 'object',
      properties: Object.fromEntries(Object.keys(columns).map((name) => [name, fieldSchema(table, name)])),
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

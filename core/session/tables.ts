// The one description of every table's columns: read by the wire codec, the SQL repository and the tests.
import { keyOf, type Session, type TableName, type Tables } from './entities.ts';

/** `db` columns may hold −∞, which JSON cannot: it travels as the string "-inf". */
export type ColumnType = 'text' | 'number' | 'db' | 'bool' | 'json';

export const tables: { readonly [T in TableName]: { readonly [C in keyof Tables[T]]: ColumnType } } = {
  settings: {
    id: 'text',
    name: 'text',
    rate: 'number',
    bpm: 'number',
    beatsPerBar: 'number',
    panLaw: 'number',
    muteClosesPre: 'bool',
    muteClosesCue: 'bool',
    soloDimDb: 'number',
    lastSolo: 'json',
    interfaceName: 'text',
    interfaceOutputs: 'number',
    zero: 'number'
  },
  channel: {
    id: 'text',
    kind: 'text',
    name: 'text',
    colour: 'number',
    role: 'text',
    byHand: 'text',
    hidden: 'bool',
    resting: 'bool',
    pinned: 'bool',
    column: 'number',
    columnHidden: 'bool',
    position: 'number',
    born: 'number',
    width: 'number',
    outputId: 'text',
    outputPair: 'number',
    trimDb: 'db',
    polarity: 'bool',
    faderDb: 'db',
    pan: 'number',
    panRight: 'number',
    spread: 'number',
    mute: 'bool',
    solo: 'bool',
    soloSafe: 'bool',
    pattern: 'json'
  },
  send: { sourceId: 'text', targetId: 'text', levelDb: 'db', tap: 'text', on: 'bool', mono: 'bool', pan: 'number' },
  insert: {
    id: 'text',
    channelId: 'text',
    position: 'number',
    type: 'text',
    bypass: 'bool',
    keyId: 'text',
    keyTap: 'text',
    params: 'json'
  },
  clip: {
    id: 'text',
    channelId: 'text',
    mediaId: 'text',
    start: 'number',
    offset: 'number',
    length: 'number',
    channel: 'number',
    side: 'text'
  },
  media: {
    id: 'text',
    name: 'text',
    sha256: 'text',
    rate: 'number',
    channels: 'number',
    frames: 'number',
    encoding: 'text',
    peakDb: 'db',
    origin: 'json',
    loudness: 'json'
  },
  divider: { id: 'text', caption: 'text', position: 'number' },
  showing: { id: 'text', number: 'number', name: 'text', ids: 'json', filter: 'json' },
  cueToken: { id: 'text', channelId: 'text' }
};

export const tableNames = Object.keys(tables) as TableName[];

/** Columns that make up a row's key. */
export const keyColumns = (table: TableName): string[] => (table === 'send' ? ['sourceId', 'targetId'] : ['id']);

type Fields = Record<string, unknown>;

const encodeValue = (type: ColumnType | undefined, value: unknown): unknown => (type === 'db' && value === -Infinity ? '-inf' : value);
const decodeValue = (type: ColumnType | undefined, value: unknown): unknown => (type === 'db' && value === '-inf' ? -Infinity : value);

const mapFields = (table: TableName, row: Fields, each: typeof encodeValue): Fields => {
  const types = tables[table] as Record<string, ColumnType>;
  return Object.fromEntries(Object.entries(row).map(([name, value]) => [name, each(types[name], value)]));
};

/** A row, or some of its fields, as JSON can carry it. */
export const encodeFields = (table: TableName, row: Fields): Fields => mapFields(table, row, encodeValue);
/** The inverse of `encodeFields`. */
export const decodeFields = (table: TableName, row: Fields): Fields => mapFields(table, row, decodeValue);

/** A session as JSON can carry it: each table a list of rows. */
export type SessionDocument = { readonly [T in TableName]: readonly Fields[] };

export const encodeSession = (session: Session): SessionDocument =>
  Object.fromEntries(
    tableNames.map((table) => [table, [...session[table].values()].map((row) => encodeFields(table, row as unknown as Fields))])
  ) as unknown as SessionDocument;

export const decodeSession = (document: SessionDocument): Session =>
  Object.fromEntries(
    tableNames.map((table) => [
      table,
      new Map(
        (document[table] ?? []).map((fields) => {
          const row = decodeFields(table, fields) as unknown as Tables[typeof table];
          return [keyOf(table, row), row];
        })
      )
    ])
  ) as unknown as Session;

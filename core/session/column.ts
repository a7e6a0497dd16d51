// What a column is: the words in which every table is described. From a description follow the wire's codec, the published schema, the
// gate, checks of commands' arguments, SQL, new rows, what removing and copying do, and who is woken.
import { MOST_FRAMES, TOP_DB, FLOOR_DB } from '../units.ts';
import { PLAIN_PATTERN } from '../text.ts';

/** A JSON Schema (draft 7) of a value as it travels. */
export type JsonSchema = Readonly<Record<string, unknown>>;

/** `db` columns may hold −∞, which JSON cannot: it travels as the string "-inf". */
export type ColumnType = 'text' | 'number' | 'db' | 'bool' | 'json';

/**
 * What a change of it is to a plan that runs. `shape`: another plan. `open`: edges open and close. `value`: something glides.
 * `own`: a value, but having one or not (null) is a matter of shape. `clips`, `pattern`: sources are read anew. `tempo`: what counts
 * in notes. `lanes`: gains and values follow another course.
 */
export type Sound = 'shape' | 'open' | 'value' | 'own' | 'clips' | 'pattern' | 'tempo' | 'lanes';

/**
 * What of a page shows it, beside the row's own cells: the tree of rows and columns, the Roster's rows, everything about clips, who is
 * heard, who is in which group, what is printed, the places on the timeline that have names, and lanes with their points.
 */
export type Aspect = 'tree' | 'rows' | 'clips' | 'routing' | 'groups' | 'prints' | 'places' | 'lanes';

/** A column that names a row of another table. */
export type Reference = {
  readonly to: string;
  /**
   * When what it names is removed. `goes`: the row too. `stays`: it names what is not there, which means nothing. `routed`: the command
   * that removes finds another. `leaves`: it is a list, and the id leaves it; an emptied one goes.
   */
  readonly removed: 'goes' | 'stays' | 'routed' | 'leaves';
  /** When what it names is copied. `with`: so is the row. `within`: in a copied row it names the copy. Otherwise nothing. */
  readonly copied?: 'with' | 'within';
  /** Whether the named row goes with the last that names it. */
  readonly counted?: true;
};

export type Options<T> = {
  /** What a new row has, unless something is said; and what rows from before it stand for. */
  readonly default?: T;
  /** The version of the document that brought it, if not the first: rows from before have its default. */
  readonly since?: number;
  /** What its numbers count. */
  readonly unit?: string;
  /** What it is called in a sentence, "trim", and several of it, "trims". */
  readonly word?: string;
  readonly words?: string;
  /** Absent: it cannot be heard. */
  readonly sound?: Sound;
  readonly shown?: readonly Aspect[];
  /** Whether it decides who is heard; `silence`, of levels: only between −∞ and all others. */
  readonly routing?: 'always' | 'silence';
  /** Whether rows of the session can contradict each other by it. */
  readonly structural?: true;
  /** Of the moment: a copy, or a template too, begins with the default again. */
  readonly passing?: 'copies' | 'copies and templates';
  /** Two tracks that become a pair, or two returns that become one, need not agree in it though it is heard: what they become makes its own. */
  readonly paired?: 'made';
  readonly merged?: 'made';
  readonly reference?: Reference;
  /** A vocabulary that grows without the database: SQL does not check it. */
  readonly grows?: true;
};

declare const value: unique symbol;
export type Column<T = unknown> = Options<T> & {
  readonly type: ColumnType;
  /** Of a value that is not null. */
  readonly schema: JsonSchema;
  readonly nullable: boolean;
  readonly [value]?: T;
};

/** A column with what its options say, so that its type tells whether it has a default. */
type Made<T, O> = Column<T> & O;
type None = Record<never, never>;

const made = <T, O extends Options<T>>(type: ColumnType, schema: JsonSchema, options?: O) =>
  ({ type, schema, nullable: false, ...options }) as unknown as Made<T, O>;

const ID: JsonSchema = { type: 'string', pattern: '^[\\w:.-]{1,80}$', not: { enum: Object.getOwnPropertyNames(Object.prototype) } };
const plainText = (most: number): JsonSchema => ({ type: 'string', maxLength: most, pattern: PLAIN_PATTERN });

/** Schemas of parts of `json` columns, and of columns that no builder says. */
export const schemas = {
  id: ID,
  plain: plainText,
  text: (most: number): JsonSchema => ({ ...plainText(most), minLength: 1 }),
  between: (minimum: number, maximum: number): JsonSchema => ({ type: 'number', minimum, maximum }),
  whole: (minimum: number, maximum: number): JsonSchema => ({ type: 'integer', minimum, maximum }),
  oneOf: (...values: readonly (string | number)[]): JsonSchema => ({ enum: values }),
  orNull: (schema: JsonSchema): JsonSchema => ({ anyOf: [schema, { type: 'null' }] }),
  finite: { type: 'number', minimum: -Number.MAX_VALUE, maximum: Number.MAX_VALUE } as JsonSchema,
  frames: { type: 'integer', minimum: 0, maximum: MOST_FRAMES } as JsonSchema,
  rate: { type: 'integer', minimum: 1000, maximum: 768000 } as JsonSchema,
  sha256: { type: 'string', pattern: '^[0-9a-f]{64}$' } as JsonSchema
};

/** An identity: letters, digits, "-", "_", "." and ":". */
export const id = <O extends Options<string> = None>(options?: O) => made<string, O>('text', ID, options);
/** Text by a schema of its own. */
export const textBy = <O extends Options<string> = None>(schema: JsonSchema, options?: O) => made<string, O>('text', schema, options);
/** Text of 1 to `most` letters. */
export const text = <O extends Options<string> = None>(most: number, options?: O) => textBy(schemas.text(most), options);
/** Text of up to `most` letters. */
export const textOrNone = <O extends Options<string> = None>(most: number, options?: O) => textBy(schemas.plain(most), options);
export const oneOf = <const T extends string, O extends Options<T> = None>(values: readonly T[], options?: O) =>
  made<T, O>('text', schemas.oneOf(...values), options);
export const oneOfNumbers = <const T extends number, O extends Options<T> = None>(values: readonly T[], options?: O) =>
  made<T, O>('number', schemas.oneOf(...values), options);
export const number = <O extends Options<number> = None>(schema: JsonSchema, options?: O) => made<number, O>('number', schema, options);
export const between = <O extends Options<number> = None>(minimum: number, maximum: number, options?: O) =>
  number(schemas.between(minimum, maximum), options);
export const whole = <O extends Options<number> = None>(minimum: number, maximum: number, options?: O) =>
  number(schemas.whole(minimum, maximum), options);
/** Sort keys: any finite number. */
export const finite = <O extends Options<number> = None>(options?: O) => number(schemas.finite, options);
export const frames = <O extends Options<number> = None>(options?: O) => number(schemas.frames, options);
/** A level: −∞, or from −120 dB to +12 dB. */
export const level = <O extends Options<number> = None>(options?: O) =>
  made<number, O>('db', { anyOf: [schemas.between(FLOOR_DB, TOP_DB), { const: '-inf' }] }, options);
/** A measured level: any, or −∞. */
export const measured = <O extends Options<number> = None>(options?: O) =>
  made<number, O>('db', { anyOf: [schemas.finite, { const: '-inf' }] }, options);
export const flag = <O extends Options<boolean> = None>(options?: O) => made<boolean, O>('bool', { type: 'boolean' }, options);
export const json = <T, O extends Options<T> = None>(schema: JsonSchema, options?: O) => made<T, O>('json', schema, options);
/** The same, or null, which is its default. */
export const orNull = <T>(of: Column<T>, options: Options<T | null> = {}) =>
  ({ ...of, default: null, nullable: true, ...options }) as unknown as Made<T | null, { readonly default: T | null }>;

export type TableOptions = {
  /** Columns that make up a row's key; `id` alone if absent. */
  readonly key?: readonly string[];
  /** The version of the document that brought it, if not the first. */
  readonly since?: number;
  /** Whether templates leave its rows out. */
  readonly notInTemplates?: true;
  /** What creating or removing a row wakes, and what every change does. */
  readonly shown?: readonly Aspect[];
  readonly always?: readonly Aspect[];
  /** Conditions across columns, in SQL. */
  readonly conditions?: readonly string[];
  /** Rows that come and go contradict no others: all that must hold of one is said of it alone. */
  readonly leaf?: true;
  /** Columns by which no two rows of the installation agree. */
  readonly unique?: readonly string[];
};
export type Table<C = Readonly<Record<string, Column>>> = TableOptions & { readonly columns: C };

export const table = <C>(columns: C, options: TableOptions = {}): Table<C> => ({ ...options, columns });

type ValueOf<C> = C extends { readonly [value]?: infer T } ? T : never;
/** The row that a table's description describes. */
export type RowOf<D extends { readonly columns: object }> = { readonly [N in keyof D['columns']]: ValueOf<D['columns'][N]> };

/** A column's schema with null where it may be. */
export const schemaOf = ({ schema, nullable }: Column): JsonSchema => (nullable ? schemas.orNull(schema) : schema);

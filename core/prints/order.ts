// What a print job is asked for: which files, in what format, from where to where.
import * as yup from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { mixChain } from '../routing/graph.ts';
import { MIX } from '../session/create.ts';
import { settingsOf, type Channel, type Session, type Tap, type Version } from '../session/entities.ts';
import { endOf, inOrder } from '../session/select.ts';
import { sounds } from '../session/vcas.ts';
import { stemsOf } from '../stems/soundness.ts';
import type { Frames } from '../units.ts';

/**
 * `stem`: a stem behind its fader and pan. `input`: the sum that comes into the mix bus, before its trim. `mix`: what leaves the last
 * stage of the chain. `version`: the same of a version. `raw`: a track through its inserts, before its fader; `dry`: before its inserts.
 * `bus`, `return`, `cue`: what leaves one. `chained`: a stem through the mix chain, whose keyed processors hear the whole mix.
 */
export const PRINT_KINDS = ['mix', 'stem', 'input', 'version', 'raw', 'dry', 'bus', 'return', 'cue', 'chained'] as const;
export type PrintKind = (typeof PRINT_KINDS)[number];
export const FORMATS = ['wav16', 'wav24', 'wav32', 'wav32f', 'flac16', 'flac24'] as const;
export type Format = (typeof FORMATS)[number];

/** Until everything is under −90 dBFS for a second, not at all, or so many seconds. */
export type Tail = 'decay' | 'none' | number;
export type Range = { readonly from: Frames; readonly to: Frames; readonly name?: string };

/** One file, or, of a kind without an id, all there are. `id` is a channel or a version. */
export type FileOrder = { readonly kind: PrintKind; readonly id?: string };
export type PrintOrder = {
  readonly files: readonly FileOrder[];
  readonly format: Format;
  /** Hz; null is the session's. */
  readonly rate: number | null;
  /** Empty is the whole session. */
  readonly ranges: readonly Range[];
  readonly tail: Tail;
  /** Seconds before a range from which on it is rendered; null is from the session's start. */
  readonly preRoll: number | null;
  /** TPDF; null is where 16 bit are asked for. */
  readonly dither: boolean | null;
  /** Pattern of the files' names: see `names.ts`. */
  readonly names: string;
  /** Whether what buses and returns sound like comes back as tracks, muted: beside them, or with them put to rest. */
  readonly take: Take | null;
};
export const TAKES = ['beside', 'resting'] as const;
export type Take = (typeof TAKES)[number];
/** Kinds that can come back as tracks. */
export const TAKEN: ReadonlySet<PrintKind> = new Set(['bus', 'return']);

export const DEFAULT_NAMES = '{session} - {name}';
export const MOST_FILES = 1000;
const MOST_TAIL = 600;
/** Seconds that a range may go on after the last clip. */
const MOST_AFTER = 600;

/** What a file is of: a channel at a tap, or a version of the mix. */
export type PlannedFile = {
  readonly kind: PrintKind;
  /** Id of the channel or version; of the mix and its input the mix bus. */
  readonly id: string;
  readonly name: string;
  readonly tap: Tap;
};

const schema = yup.object({
  files: yup
    .array()
    .of(
      yup
        .object({
          kind: yup
            .string()
            .oneOf([...PRINT_KINDS] as const)
            .required(),
          id: yup.string().max(80)
        })
        .noUnknown()
        .required()
    )
    .max(MOST_FILES, `at most ${MOST_FILES} files are printed at once`)
    .default([]),
  format: yup
    .string()
    .oneOf([...FORMATS] as const)
    .default('wav24'),
  rate: yup.number().integer().min(8000).max(384_000).nullable().default(null),
  ranges: yup
    .array()
    .of(
      yup
        .object({
          from: yup.number().integer().min(0).required(),
          to: yup.number().integer().min(0).required(),
          name: yup.string().max(120)
        })
        .noUnknown()
        .required()
    )
    .max(100)
    .default([]),
  tail: yup
    .mixed<Tail>((value): value is Tail => value === 'decay' || value === 'none' || typeof value === 'number')
    .test(
      'tail',
      `tail is "decay", "none", or 0 to ${MOST_TAIL} seconds`,
      (value) => typeof value !== 'number' || (value >= 0 && value <= MOST_TAIL)
    )
    .default('decay'),
  preRoll: yup.number().min(0).max(3600).nullable().default(null),
  dither: yup.boolean().nullable().default(null),
  names: yup.string().trim().min(1).max(200).default(DEFAULT_NAMES),
  take: yup
    .string()
    .oneOf([...TAKES] as const)
    .nullable()
    .default(null)
});

/** An order as it is carried out, with what it leaves out. Unknown fields are named. */
export function readOrder(given: unknown): Result<PrintOrder> {
  try {
    const order = schema.noUnknown(true, 'unknown: ${unknown}').validateSync(given, { strict: true, stripUnknown: false });
    return ok(schema.cast(order, { stripUnknown: false }) as PrintOrder);
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    return refuse('bad-arguments', `This cannot be printed: ${error.message}.`);
  }
}

const nameOfKind = ({ kind }: Channel): PrintKind | null =>
  kind === 'track' ? 'raw' : kind === 'bus' ? 'bus' : kind === 'return' ? 'return' : kind === 'cue' ? 'cue' : kind === 'mix' ? 'mix' : null;
/** What a channel that is asked for by name is printed as: a track through its inserts, anything else as it leaves; null for what has no sound. */
export const kindOf = (channel: Channel): PrintKind | null => (sounds(channel) ? nameOfKind(channel) : null);

const KINDS_OF: Readonly<Partial<Record<PrintKind, readonly string[]>>> = {
  stem: ['bus'],
  raw: ['track'],
  dry: ['track'],
  bus: ['bus', 'track', 'return'],
  return: ['return'],
  cue: ['cue'],
  chained: ['bus']
};
const WORDS: Readonly<Record<PrintKind, string>> = {
  mix: 'the mix',
  stem: 'a stem',
  input: 'the mix-bus input',
  version: 'a version',
  raw: 'a track',
  dry: 'a track',
  bus: 'a bus',
  return: 'a return',
  cue: 'a cue',
  chained: 'a stem'
};
const TAPS: Readonly<Partial<Record<PrintKind, Tap>>> = { raw: 'pre', dry: 'input', input: 'input' };

/** Stems through the chain are not the mix when they are added up, and say so by their names. */
const named = (kind: PrintKind, name: string) => (kind === 'chained' ? `${name} chained, not additive` : name);
const fileOf = (kind: PrintKind, id: string, name: string): PlannedFile => ({
  kind,
  id,
  name: named(kind, name),
  tap: TAPS[kind] ?? 'post'
});
/** Kinds of which stems are what there is. */
const OF_STEMS: ReadonlySet<PrintKind> = new Set(['stem', 'chained']);

/** The files that an order comes to, or why they cannot be printed. Stems stand in order of birth, tracks as in the session. */
export function plannedFiles(session: Session, order: PrintOrder): Result<PlannedFile[]> {
  const end = endOf(session);
  if (end === 0) return refuse('empty', 'There is nothing to print yet. Import some audio first.');
  for (const { from, to } of order.ranges) {
    const range = `The range from ${from} to ${to}`;
    if (to <= from) return refuse('empty', `${range} holds nothing. Give one that ends after it begins.`);
    if (from >= end) return refuse('empty', `${range} begins after the last clip, which ends at ${end}. Give one before it.`);
    if (to > end + MOST_AFTER * settingsOf(session).rate)
      return refuse('bad-arguments', `${range} ends more than 10 minutes after the last clip, which ends at ${end}. Give an earlier end.`);
  }
  const files: PlannedFile[] = [];
  for (const { kind, id } of order.files.length ? order.files : [{ kind: 'mix' as const, id: undefined }]) {
    const found = id === undefined || kind === 'mix' || kind === 'input' ? allOf(session, kind) : one(session, kind, id);
    if (!found.ok) return found;
    files.push(...found.value);
  }
  if (order.take !== null) {
    const other = files.find(({ kind, id }) => !TAKEN.has(kind) || !['bus', 'return'].includes(session.channel.get(id)!.kind));
    if (other) return refuse('bad-arguments', `Only buses and returns come back as tracks, and ${other.name} is none.`);
    if (order.rate !== null && order.rate !== settingsOf(session).rate)
      return refuse('bad-arguments', 'What comes back as a track has the session’s own rate.');
  }
  const unique = [...new Map(files.map((file) => [`${file.kind} ${file.id}`, file])).values()];
  return unique.length <= MOST_FILES
    ? ok(unique)
    : refuse('too-many', `${unique.length} files are more than the ${MOST_FILES} that are printed at once. Print them in parts.`);
}

function allOf(session: Session, kind: PrintKind): Result<PlannedFile[]> {
  if (kind === 'mix') return ok([fileOf('mix', mixChain(session).at(-1)!.id, 'mix')]);
  if (kind === 'input') return ok([fileOf('input', MIX, 'mix-bus input')]);
  if (kind === 'version') {
    const versions = [...session.version.values()].sort((a, b) => a.position - b.position);
    if (versions.length === 0) return refuse('empty', 'There are no versions yet. Make one first.');
    return ok(versions.map(versionFile));
  }
  const wanted = (channel: Channel) => KINDS_OF[kind]![0] === channel.kind && !channel.resting;
  const channels = OF_STEMS.has(kind) ? stemsOf(session) : inOrder(session).filter(wanted);
  if (channels.length === 0)
    return refuse(
      'empty',
      OF_STEMS.has(kind)
        ? 'No bus is a stem yet. Make the buses that go into the mix bus stems first.'
        : `There is no ${WORDS[kind].replace(/^a /, '')} that could be printed.`
    );
  return ok(channels.map(({ id, name }) => fileOf(kind, id, name)));
}

function one(session: Session, kind: PrintKind, id: string): Result<PlannedFile[]> {
  if (kind === 'version') {
    const version = session.version.get(id);
    if (!version) return refuse('not-found', 'This version is no longer in the session.', { id });
    return ok([versionFile(version)]);
  }
  const channel = session.channel.get(id);
  if (!channel) return refuse('not-found', 'One of these channels is no longer in the session.', { id });
  if (!KINDS_OF[kind]!.includes(channel.kind) || (OF_STEMS.has(kind) && !channel.stem))
    return refuse('bad-arguments', `${channel.name} is not ${WORDS[kind]}: it cannot be printed as one.`);
  if (channel.resting) return refuse('silent', `${channel.name} is resting: it makes no sound. Wake it first.`);
  return ok([fileOf(kind, id, channel.name)]);
}

const versionFile = ({ id, name }: Version): PlannedFile => fileOf('version', id, name);

/** Whether something of a version is not only after the stems, so that it has to be rendered by itself. */
export const ownPass = ({ channels }: Version): boolean => channels.length > 0;

/** Hz of the files. */
export const rateOf = (session: Session, { rate }: PrintOrder): number => rate ?? settingsOf(session).rate;

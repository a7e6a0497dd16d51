// Channels: tracks, buses, returns, the mix bus, cues, key tracks and VCAs, which have no audio.
import type { Db, Frames } from '../../units.ts';
import * as is from '../column.ts';
import { lastLevel } from './lastLevel.ts';
import { HAND_FIELDS, ROLES } from '../roles.ts';

const { between, frames, id, plain } = is.schemas;

export const CHANNEL_KINDS = ['track', 'bus', 'return', 'mix', 'cue', 'key', 'vca'] as const;
export type ChannelKind = (typeof CHANNEL_KINDS)[number];

/** What every pulse of a pattern is: how long at full level, and how fast it then falls. */
export type PulseShape = {
  /** Level of its beginning, dBFS. */
  readonly levelDb: Db;
  /** Time at that level, ms. */
  readonly length: number;
  /** Time to fall by 60 dB after that, ms. */
  readonly decay: number;
};

/**
 * Pulses instead of recordings. `pulse`: one every `every` quarter notes, the first of a bar `accentDb` louder. `notes`: at
 * positions in quarter notes, with their velocities 0 … 1. `onsets`: at frames where another track's sound begins.
 */
export type Pattern = PulseShape &
  (
    | { readonly of: 'pulse'; readonly every: number; readonly accentDb: Db }
    | { readonly of: 'notes'; readonly file: string; readonly at: readonly number[]; readonly velocity: readonly number[] }
    | { readonly of: 'onsets'; readonly trackId: string; readonly at: readonly Frames[] }
  );

const pulses: Readonly<Record<string, is.JsonSchema>> = {
  levelDb: between(-120, 0),
  length: between(0, 10_000),
  decay: between(0, 10_000)
};
const many = (items: is.JsonSchema): is.JsonSchema => ({ type: 'array', items, maxItems: 100_000 });
const patternOf = (of: string, fields: Readonly<Record<string, is.JsonSchema>>): is.JsonSchema => ({
  type: 'object',
  properties: { of: { const: of }, ...pulses, ...fields },
  required: ['of', ...Object.keys(pulses), ...Object.keys(fields)],
  additionalProperties: false
});
const pattern: is.JsonSchema = {
  anyOf: [
    patternOf('pulse', { every: between(1 / 32, 64), accentDb: between(0, 24) }),
    patternOf('notes', { file: plain(255), at: many({ ...frames, type: 'number' }), velocity: many(between(0, 1)) }),
    patternOf('onsets', { trackId: id, at: many(frames) })
  ]
};

export const channel = is.table(
  {
    id: is.id(),
    kind: is.oneOf(CHANNEL_KINDS, { shown: ['tree'], routing: 'always', structural: true }),
    name: is.text(120, { routing: 'always' }),
    /** Place among the twelve family hues, 0 … < 12; between two of them a hue in between. */
    colour: is.number({ type: 'number', minimum: 0, exclusiveMaximum: 12 }, { default: 0 }),
    /** What it is in the music: an id of `ROLES`, or '' where that is not known. */
    role: is.textBy(is.schemas.oneOf('', ...ROLES.map(({ id: role }) => role)), { default: '', since: 3, grows: true }),
    /** Which of `HAND_FIELDS` a person has set, words with spaces between: no automatic step changes these. */
    byHand: is.textBy({ type: 'string', pattern: `^(${HAND_FIELDS.join('|')}| )*$` }, { default: '', since: 3, grows: true }),
    /** Whether it is left out of the views; it sounds all the same. */
    hidden: is.flag({ default: false, since: 3, shown: ['tree'] }),
    /** Whether it is kept but costs nothing and makes no sound. */
    resting: is.flag({ word: 'rest', words: 'rest', default: false, since: 3, sound: 'shape', routing: 'always' }),
    /** Whether its row stands in the pinned section, always in view. */
    pinned: is.flag({ default: false, since: 4, shown: ['tree'], passing: 'copies' }),
    /** Sort key of its column among the crosspoints, of returns and cues; equals stand in the order of the session. */
    column: is.finite({ default: 0, since: 4, shown: ['tree'] }),
    columnHidden: is.flag({ default: false, since: 4, shown: ['tree'] }),
    /** Sort key among all channels; any finite number, lower comes first. */
    position: is.finite({ shown: ['tree'] }),
    /** Order of birth, whole number; fixes the order of every sum. */
    born: is.whole(0, 2 ** 31 - 1, { sound: 'shape', paired: 'made', merged: 'made' }),
    /** Audio channels inside: 1 mono, 2 stereo. */
    width: is.oneOfNumbers([1, 2], { word: 'number of sides', default: 1, sound: 'shape', structural: true, paired: 'made' }),
    /** Main output: the channel it goes to; null with `outputPair` null is "nowhere". */
    outputId: is.orNull(is.id(), {
      words: 'outputs',
      merged: 'made',
      sound: 'shape',
      shown: ['tree'],
      routing: 'always',
      structural: true,
      reference: { to: 'channel', removed: 'routed', copied: 'within' }
    }),
    /** Main output: an interface output pair, 0 is outputs 1–2. */
    outputPair: is.orNull(is.whole(0, 63), {
      words: 'outputs',
      merged: 'made',
      sound: 'shape',
      shown: ['tree'],
      routing: 'always',
      structural: true
    }),
    /** Level of the input before the inserts. */
    trimDb: is.level({ unit: 'dB', word: 'trim', words: 'trims', default: 0, since: 2, sound: 'value', routing: 'silence' }),
    /** Whether the input's polarity is inverted. */
    polarity: is.flag({ word: 'polarity', words: 'polarities', default: false, since: 2, sound: 'value' }),
    faderDb: is.level({ unit: 'dB', words: 'faders', default: 0, sound: 'value', routing: 'silence', merged: 'made' }),
    lastDb: lastLevel(),
    /** Its pan, −100 … 100; of a stereo channel a balance, or, with `panRight`, where its left side is placed. */
    pan: is.between(-100, 100, { word: 'pan', default: 0, sound: 'value', paired: 'made' }),
    /** Where a stereo channel's right side is placed apart from the left; null: one balance pin. */
    panRight: is.orNull(is.between(-100, 100), { word: 'second pin', since: 4, sound: 'shape', paired: 'made' }),
    /** How wide a stereo channel is: side over mid, 0 … 200. */
    spread: is.between(0, 200, { word: 'width', unit: '%', default: 100, since: 4, sound: 'shape', paired: 'made' }),
    mute: is.flag({ word: 'mute', words: 'mutes', default: false, sound: 'open', routing: 'always' }),
    solo: is.flag({ default: false, sound: 'open', routing: 'always', passing: 'copies and templates', paired: 'made', merged: 'made' }),
    soloSafe: is.flag({ default: false, sound: 'open', routing: 'always', paired: 'made', merged: 'made' }),
    /** Whether what leaves it is a stem: printed by itself, and one of those that make up the mix. */
    stem: is.flag({ word: 'stem', words: 'stems', default: false, since: 6, routing: 'always', structural: true }),
    /** Of a stem: wanted across everything, so that a track may have a part in it besides its own stem. */
    common: is.flag({ default: false, since: 6, routing: 'always', structural: true }),
    /** What a key track, or a click, plays besides its clips. */
    pattern: is.orNull(is.json<Pattern>(pattern), { since: 4, sound: 'pattern', shown: ['tree'], paired: 'made', merged: 'made' })
  },
  { shown: ['tree', 'routing'], always: ['rows'], conditions: ['output_id is null or output_pair is null'] }
);
export type Channel = is.RowOf<typeof channel>;

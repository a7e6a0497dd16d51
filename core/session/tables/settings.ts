// The session as a whole: one row.
import * as is from '../column.ts';

/** Gain at the centre in dB; 0 is a balance. */
export const PAN_LAWS = [-3, -4.5, -6, 0] as const;

/** How a fade runs: in amplitude along a line, a quarter of a sine (powers of in and out add to one), or late or early. */
export const CURVES = ['linear', 'power', 'slow', 'fast'] as const;
export type Curve = (typeof CURVES)[number];

/** When moves are written into lanes, and what a hand on a value does whose lane plays. */
export const MOVES = ['never', 'held', 'stopped'] as const;
export const GRABS = ['trim', 'write', 'refuse'] as const;
export type Grab = (typeof GRABS)[number];
export type Moves = (typeof MOVES)[number];

export const settings = is.table({
  id: is.textBy({ const: 'settings' }, { default: 'settings' }),
  name: is.text(120, { words: 'name' }),
  rate: is.number(is.schemas.rate, { unit: 'Hz', default: 48000, structural: true }),
  bpm: is.between(20, 400, { unit: 'quarter notes a minute', words: 'tempo', default: 120, sound: 'tempo' }),
  beatsPerBar: is.whole(1, 16, { words: 'beats per bar', default: 4, sound: 'tempo' }),
  panLaw: is.oneOfNumbers(PAN_LAWS, { unit: 'dB', words: 'pan law', default: -3, sound: 'open' }),
  /** Whether mute also closes `pre` sends into returns. */
  muteClosesPre: is.flag({ words: 'what mute closes of sends to returns', default: true, sound: 'open', routing: 'always' }),
  /** Whether mute also closes `input` and `pre` sends into cues. */
  muteClosesCue: is.flag({ words: 'what mute closes of sends to cues', default: false, since: 4, sound: 'open', routing: 'always' }),
  /** By how much solo dims the rest, dB below 0; null silences it. */
  soloDimDb: is.orNull(is.between(-60, 0), {
    unit: 'dB',
    words: 'what solo does to the rest',
    since: 4,
    sound: 'open',
    routing: 'always'
  }),
  /** The channels soloed before solo was last cleared. */
  lastSolo: is.json<readonly string[], { default: readonly string[]; since: 4 }>(
    { type: 'array', items: is.schemas.id },
    { default: [], since: 4 }
  ),
  /** Whether all link groups are paused, each as it is for itself. */
  linksPaused: is.flag({ words: 'whether link groups are paused', default: false, since: 5, shown: ['groups'] }),
  /** The mix's fade-in, from the beginning of the timeline, and its fade-out, to the end of the last clip; 0 is none. */
  fadeIn: is.frames({ unit: 'frames', words: 'fade-in', default: 0, since: 6, sound: 'shape', shown: ['prints'] }),
  fadeInCurve: is.oneOf(CURVES, { words: 'curve of the fade-in', default: 'linear', since: 6, sound: 'shape', shown: ['prints'] }),
  fadeOut: is.frames({ unit: 'frames', words: 'fade-out', default: 0, since: 6, sound: 'shape', shown: ['prints'] }),
  fadeOutCurve: is.oneOf(CURVES, { words: 'curve of the fade-out', default: 'linear', since: 6, sound: 'shape', shown: ['prints'] }),
  /** The fade that an edit gives to an edge it makes; 0 is none. */
  edgeMs: is.between(0, 1000, { unit: 'ms', words: 'edge fade', default: 2, since: 7, sound: 'clips' }),
  /** What moves made while it plays write: nothing, what is moved while it is held, or from the first touch until it stops. */
  movesWritten: is.oneOf(MOVES, { words: 'what moves write', default: 'never', since: 8 }),
  /** What a grabbed fader does whose lane plays: it shifts the lane, writes it, or is refused. */
  laneGrab: is.oneOf(GRABS, { words: 'what a hand on a playing lane does', default: 'refuse', since: 8 }),
  /** How a written stretch goes back to the lane. */
  laneGlideMs: is.between(0, 10_000, { unit: 'ms', words: 'glide back to a lane', default: 200, since: 8 }),
  /** The simulated interface: its name and how many outputs it has, an even number. */
  interfaceName: is.text(60, { words: 'name of the interface', default: 'Quay Eight', since: 4 }),
  interfaceOutputs: is.number(
    { ...is.schemas.whole(2, 128), multipleOf: 2 },
    { words: 'outputs of the interface', default: 8, since: 4, structural: true }
  ),
  /** The time reference that the timeline's first frame stands for, in frames: that of the recordings it began with. */
  zero: is.number({ ...is.schemas.frames, maximum: Number.MAX_SAFE_INTEGER }, { unit: 'frames', default: 0, since: 2 })
});
export type Settings = is.RowOf<typeof settings>;

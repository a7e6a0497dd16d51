// What lanes can be of: the scale in which their values lie, the range, and what they are called.
import { processors } from '../processors/index.ts';
import { isLogarithmic } from '../processors/spec.ts';
import type { Lane, LaneOf, Session } from '../session/entities.ts';
import { clampDb, clampPan, FLOOR_DB, TOP_DB } from '../units.ts';

/**
 * How values between points are found. `level`: in dB, in amplitude where an end is at −∞; `ratio`: by equal ratios; `plain`: by equal
 * differences; `steps`: not at all, each holds.
 */
export type Scale = 'level' | 'ratio' | 'plain' | 'steps';

export type LaneKind = {
  readonly scale: Scale;
  readonly unit: string;
  /** The least and the most that it can be; a level can be −∞ too. */
  readonly min: number;
  readonly max: number;
  /** Of steps: what each whole number stands for. */
  readonly choices?: readonly string[];
};

/** What names a lane: no two lanes agree in it. */
export type LanePlace = Pick<Lane, 'channelId' | 'of' | 'targetId' | 'insertId' | 'param'>;

const LEVEL: LaneKind = { scale: 'level', unit: 'dB', min: FLOOR_DB, max: TOP_DB };
const PIN: LaneKind = { scale: 'plain', unit: '', min: -100, max: 100 };
const steps = (...choices: string[]): LaneKind => ({ scale: 'steps', unit: '', min: 0, max: choices.length - 1, choices });
const KINDS: Readonly<Record<Exclude<LaneOf, 'param'>, LaneKind>> = {
  fader: LEVEL,
  faderTrim: LEVEL,
  pan: PIN,
  panRight: PIN,
  spread: { scale: 'plain', unit: '%', min: 0, max: 200 },
  mute: steps('open', 'muted'),
  sendLevel: LEVEL,
  sendTrim: LEVEL,
  sendOn: steps('off', 'on'),
  bypass: steps('at work', 'bypassed')
};

/** What a lane's values are; null of a parameter that its insert does not have. `kindOf(session, lane)!.scale` */
export function kindOf(session: Session, { of, insertId, param }: LanePlace): LaneKind | null {
  if (of !== 'param') return KINDS[of];
  const insert = insertId === null ? undefined : session.insert.get(insertId);
  const spec = insert && param !== null ? processors[insert.type].specs.get(param) : undefined;
  if (!spec) return null;
  const { unit, min, max, choices } = spec;
  return { scale: choices ? 'steps' : isLogarithmic(spec) ? 'ratio' : 'plain', unit, min, max, choices };
}

/** A value brought into what its lane can be: levels to 0.01 dB, pins to tenths, choices to whole numbers. */
export function clampTo({ scale, unit, min, max }: LaneKind, value: number): number {
  if (scale === 'level') return clampDb(value);
  const within = Math.max(min, Math.min(max, value));
  if (scale === 'steps') return Math.round(within) + 0;
  if (min === -100 && max === 100 && unit === '') return clampPan(within);
  // Six digits are more than can be heard, and the same however they were come by.
  return Number(within.toPrecision(6)) + 0;
}

const WORDS: Readonly<Record<Exclude<LaneOf, 'param'>, string>> = {
  fader: 'fader',
  faderTrim: 'fader trim',
  pan: 'pan',
  panRight: 'right pin',
  spread: 'width',
  mute: 'mute',
  sendLevel: 'send',
  sendTrim: 'send trim',
  sendOn: 'send on/off',
  bypass: 'bypass'
};

/** What a lane is of, in words without its channel: "send to Echo", "equaliser: Low cut". */
export function laneTitle(session: Session, { of, targetId, insertId, param }: LanePlace): string {
  const insert = insertId === null ? undefined : session.insert.get(insertId);
  const type = insert && processors[insert.type];
  if (of === 'param') return `${type?.title ?? 'insert'}: ${type?.specs.get(param ?? '')?.label ?? param}`;
  if (of === 'bypass') return `${type?.title ?? 'insert'}: bypass`;
  const to = targetId === null ? '' : ` to ${session.channel.get(targetId)?.name ?? 'return'}`;
  return of === 'sendOn' ? `send${to} on/off` : of === 'sendTrim' ? `send${to}: trim` : `${WORDS[of]}${to}`;
}

/** The same with its channel, as it stands in a sentence: "fader of Lead voice". */
export const laneName = (session: Session, place: LanePlace): string =>
  `${laneTitle(session, place)} of ${session.channel.get(place.channelId)?.name ?? 'a channel'}`;

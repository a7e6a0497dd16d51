// A trace: every path of a channel's signal to a place, station by station, with what each stage does to its level.
// Counted are faders, pans, sends and trims; other inserts are named and not counted (handbook: a stage is a 2 × 2 matrix).
import { playedAt } from '../lanes/heard.ts';
import { playingLane, type Asked } from '../lanes/points.ts';
import { processors, valuesOf } from '../processors/index.ts';
import { ok, refuse, type Result } from '../result.ts';
import { MIX } from '../session/create.ts';
import { sendId, settingsOf, type Channel, type Insert, type Session, type Tap } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';
import { channelsOf, dbText, insertsOf } from '../session/select.ts';
import { sounds, vcasAbove } from '../session/vcas.ts';
import { timeText } from '../time.ts';
import type { Db, Frames } from '../units.ts';
import { isCrossed } from './placement.ts';
import { mutedOf, mutingVca } from './level.ts';
import { widthBehind } from './width.ts';
import { downstream, reach, reversed, type Edge } from './graph.ts';
import {
  gainBetween,
  edgeMatrix,
  levelsOf,
  mostBetween,
  NOTHING,
  paths,
  plus,
  taps,
  chained,
  UNITY,
  type Matrix,
  type Path
} from './gain.ts';

export type Levels = { readonly left: Db; readonly right: Db; readonly power: Db };
/** One thing that happens inside a station. `db` is null where it is no single number. */
export type Stage = {
  readonly what: 'trim' | 'insert' | 'fader' | 'vca' | 'pan' | 'send' | 'mono' | 'mute';
  readonly text: string;
  readonly db: Db | null;
};
export type Station = {
  readonly id: string;
  readonly name: string;
  /** How it is left: by the main output, by a send at a tap, or, at the end of the path, by neither. */
  readonly by: 'output' | 'send' | 'end';
  readonly tap: Tap;
  readonly stages: readonly Stage[];
  /** Of a signal of 0 dB on both sides at the path's beginning, as it leaves this station. */
  readonly levels: Levels;
};
export type TracedPath = { readonly stations: readonly Station[]; readonly levels: Levels };
export type Trace = {
  readonly from: string;
  readonly to: { readonly id: string | null; readonly pair: number | null; readonly name: string };
  /** The frame at which lanes are read; null: faders, pans, sends and mutes as they are set. */
  readonly at: Frames | null;
  /** Loudest first, at most as many as were asked for. */
  readonly paths: readonly TracedPath[];
  /** All paths together, those not listed included. */
  readonly total: Levels;
  /** Whether the total is exact: one way, or only gains on all of them. Otherwise it is the most they can come to. */
  readonly exact: boolean;
  /** Inserts at work on the paths that are not counted. */
  readonly uncounted: readonly string[];
};
/** Where a trace ends: a channel's output, or an interface output pair. */
export type Goal = { readonly id: string } | { readonly pair: number };

export const pairName = (pair: number): string => `Outputs ${pair * 2 + 1}–${pair * 2 + 2}`;

const percent = (value: number) => Math.round(value * 10) / 10;
const panText = (pan: number) => (percent(pan) === 0 ? 'centre' : `${Math.abs(percent(pan))} ${pan < 0 ? 'left' : 'right'}`);
const gainsOf = ({ type, params }: Insert, width: 1 | 2) => processors[type].gains?.(valuesOf(type, params), width);

/** Where a channel's signal goes in the end, for a trace that names no goal: the output at the end of its main outputs, else the mix. */
export function goalOf(session: Session, id: string): Goal {
  let at = session.channel.get(id);
  while (at?.outputId) at = session.channel.get(at.outputId);
  return at?.outputPair != null ? { pair: at.outputPair } : { id: MIX };
}

/**
 * Every path of a channel to a goal. With `at` lanes that play are read there. `trace(session, 'vox')`, `trace(session, 'vox', { pair: 0 },
 * { at: 48000 })`
 */
export function trace(
  set: Session,
  from: string,
  goal: Goal = goalOf(set, from),
  { limit = 12, at = null }: { readonly limit?: number; readonly at?: Frames | null } = {}
): Result<Trace> {
  const session = at === null ? set : playedAt(set, at);
  const led: Led = (asked) => at !== null && asked.some((each) => playingLane(set, each) !== undefined);
  const found = channelsOf(session, 'id' in goal ? [from, goal.id] : [from]);
  if (!found.ok) return found;
  const ends = 'id' in goal ? [found.value.at(-1)!] : rowsBy(session, 'channel', 'outputPair', goal.pair);
  if (ends.some(({ kind }) => kind === 'key')) return refuse('no-way', `${ends[0].name} is a key track: nothing goes into it.`);
  const vca = [...found.value, ...ends].find((channel) => !sounds(channel));
  if (vca) return refuse('vca', `${vca.name} is a VCA: no audio goes through it. Trace a channel that it holds.`);
  const listed = ends
    .flatMap((end) => paths(session, from, end.id, limit))
    .sort((a, b) => loudness(b) - loudness(a))
    .slice(0, limit);
  const { inserts, several } = passed(session, from, new Set(ends.map(({ id }) => id)));
  const uncounted = inserts.map((insert) => `${processors[insert.type].title} on ${session.channel.get(insert.channelId)!.name}`);
  const exact = !several || inserts.length === 0;
  const totals = exact
    ? ends.map((end) => gainBetween(session, from, end.id) ?? NOTHING).reduce(plus, NOTHING)
    : ends.map((end) => mostBetween(session, from, end.id)).reduce(plus, NOTHING);
  return ok({
    from,
    to: 'id' in goal ? { id: goal.id, pair: null, name: ends[0].name } : { id: null, pair: goal.pair, name: pairName(goal.pair) },
    at,
    paths: listed.map((path) => traced(session, path, led)),
    total: levelsOf(totals),
    exact,
    uncounted
  });
}

const loudness = ({ gain }: Path) => gain.reduce((sum, x) => sum + x * x, 0);

/** Inserts at work, other than gains, that some path passes, and whether there are several: told from the graph, not path by path. */
function passed(session: Session, from: string, ends: ReadonlySet<string>): { readonly inserts: Insert[]; readonly several: boolean } {
  const { outgoing: onward } = downstream(session, from);
  const all = [...onward.values()].flat();
  const leading = reach(ends, reversed(all));
  const on = all.filter((edge) => onward.has(edge.from) && leading.has(edge.to));
  const tapOf = ({ from: source, to, via }: Edge): Tap => (via === 'send' ? session.send.get(sendId(source, to))!.tap : 'post');
  // A station's inserts are passed where something leaves it behind them.
  const left = new Set(on.filter((edge) => tapOf(edge) !== 'input').map((edge) => edge.from));
  for (const id of ends) if (onward.has(id)) left.add(id);
  const inserts = [...left]
    .filter((id) => leading.has(id) && onward.has(id))
    .flatMap((id) => insertsOf(session, id))
    .filter((insert) => !insert.bypass && !gainsOf(insert, 2)?.exact);
  const count = new Map<string, number>();
  for (const edge of on) count.set(edge.from, (count.get(edge.from) ?? 0) + 1);
  const several = [...count].some(([id, paths]) => paths + Number(ends.has(id)) > 1) || [...ends].filter((id) => onward.has(id)).length > 1;
  return { inserts, several };
}

/** Whether one of these is led by a lane, where it is traced. */
type Led = (asked: readonly Asked[]) => boolean;
const byLane = ' by lane';

function traced(session: Session, path: Path, led: Led): TracedPath {
  let gain: Matrix = UNITY;
  const stations = path.stations.map((id, i): Station => {
    const channel = session.channel.get(id)!;
    const edge = path.edges[i];
    const send = edge?.via === 'send' ? session.send.get(sendId(edge.from, edge.to))! : null;
    gain = chained(gain, edge ? edgeMatrix(session, edge) : taps(session, channel).post);
    const tap = send?.tap ?? 'post';
    const stages = stagesTo(session, channel, tap, led);
    if (send) {
      const { muteClosesPre, muteClosesCue } = settingsOf(session);
      const closes = session.channel.get(send.targetId)?.kind === 'cue' ? muteClosesCue : muteClosesPre;
      if (mutedOf(session, channel) && tap !== 'post' && closes) stages.push({ what: 'mute', text: 'closed by mute', db: -Infinity });
      if (send.mono) stages.push({ what: 'mono', text: 'mono', db: null });
      if (send.pan !== null) stages.push({ what: 'pan', text: `own pan ${panText(send.pan)}`, db: null });
      const own = (of: 'sendLevel' | 'sendTrim' | 'sendOn') => ({ channelId: id, of, targetId: send.targetId });
      const by = led([own('sendLevel'), own('sendTrim'), own('sendOn')]) ? byLane : '';
      stages.push({ what: 'send', text: (send.on ? `send, ${tap}` : 'send off') + by, db: send.on ? send.levelDb : -Infinity });
    }
    return { id, name: channel.name, by: edge ? (send ? 'send' : 'output') : 'end', tap, stages, levels: levelsOf(gain) };
  });
  return { stations, levels: levelsOf(path.gain) };
}

/** What happens inside a channel up to one of its taps. */
function stagesTo(session: Session, channel: Channel, tap: Tap, led: Led): Stage[] {
  const laned = (channelId: string, ...of: readonly Asked['of'][]) => (led(of.map((each) => ({ channelId, of: each }))) ? byLane : '');
  const stages: Stage[] = [];
  if (channel.width === 1 && channel.kind !== 'track' && channel.kind !== 'key') stages.push({ what: 'mono', text: 'mono bus', db: null });
  if (channel.trimDb !== 0 || channel.polarity)
    stages.push({ what: 'trim', text: channel.polarity ? 'trim, polarity inverted' : 'trim', db: channel.trimDb });
  if (tap === 'input') return stages;
  let { width } = channel;
  for (const insert of insertsOf(session, channel.id)) {
    const before = width;
    width = widthBehind(width, [insert]);
    const wider = width > before ? ', stereo from here' : '';
    if (insert.bypass) {
      if (wider) stages.push({ what: 'insert', text: `${processors[insert.type].title} bypassed${wider}`, db: null });
      continue;
    }
    stages.push({ what: 'insert', text: `${processors[insert.type].title}${wider}`, db: gainsOf(insert, width)?.level ?? null });
  }
  if (tap === 'pre') return stages;
  if (channel.mute) stages.push({ what: 'mute', text: `muted${laned(channel.id, 'mute')}`, db: -Infinity });
  else {
    const vca = mutingVca(session, channel.id);
    if (vca) stages.push({ what: 'mute', text: `muted by VCA ${vca.name}${laned(vca.id, 'mute')}`, db: -Infinity });
  }
  stages.push({ what: 'fader', text: `fader${laned(channel.id, 'fader', 'faderTrim')}`, db: channel.faderDb });
  for (const id of vcasAbove(session, channel.id)) {
    const vca = session.channel.get(id)!;
    stages.push({ what: 'vca', text: `VCA ${vca.name}${laned(id, 'fader', 'faderTrim')}`, db: vca.faderDb });
  }
  if (isCrossed(channel, width) && channel.spread !== 100)
    stages.push({ what: 'pan', text: `width ${percent(channel.spread)} %${laned(channel.id, 'spread')}`, db: null });
  if (isCrossed(channel, width) && channel.panRight !== null)
    stages.push({
      what: 'pan',
      text: `pins ${panText(channel.pan)} and ${panText(channel.panRight)}${laned(channel.id, 'pan', 'panRight')}`,
      db: null
    });
  else if (channel.pan !== 0 || channel.width === 1)
    stages.push({ what: 'pan', text: `pan ${panText(channel.pan)}${laned(channel.id, 'pan')}`, db: null });
  return stages;
}

const levelsText = ({ left, right, power }: Levels) => `L ${dbText(left)}  R ${dbText(right)}  power ${dbText(power)} dB`;

/** The same as lines of text. */
export function traceText(session: Session, { from, to, at, paths: list, total, exact, uncounted }: Trace): string {
  const when = at === null ? '' : ` at ${timeText(at, settingsOf(session).rate)}`;
  const head = `${session.channel.get(from)?.name ?? from} → ${to.name}${when}`;
  if (list.length === 0) return `${head}: no path.\n`;
  const lines = list.flatMap(({ stations, levels }, i) => [
    `${list.length > 1 ? `Path ${i + 1}: ` : ''}${levelsText(levels)}`,
    ...stations.map(
      ({ name, stages, by }) =>
        `  ${name.padEnd(24)} ${stages.map(({ text, db }) => (db === null ? text : `${text} ${dbText(db)} dB`)).join(' · ')}${by === 'end' ? '' : by === 'send' ? ' ⤳' : ' →'}`
    )
  ]);
  const sum = list.length > 1 ? [`Together${exact ? '' : ' up to'}: ${levelsText(total)}`] : [];
  const rest = uncounted.length ? [`Not counted: ${uncounted.join(', ')}.`] : [];
  return `${[head, ...lines, ...sum, ...rest].join('\n')}\n`;
}

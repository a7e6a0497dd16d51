// Lanes: values of channels over time, made, switched, moved as a whole, copied, thrown.
import * as yup from 'yup';
import { between, valueAt } from '../lanes/course.ts';
import { edgeFrames, moved, pointChanges, replaced, stretchChanges, withPointsAt, type Place } from '../lanes/edit.ts';
import { clampTo, kindOf, laneName, laneTitle, type LaneKind, type LanePlace } from '../lanes/kinds.ts';
import { laneOf, pointsOf } from '../lanes/points.ts';
import { restingValue } from '../lanes/resting.ts';
import { processors } from '../processors/index.ts';
import { ok, refuse, type Result } from '../result.ts';
import { widthOf } from '../routing/width.ts';
import { creation, removal, update, type Change } from '../session/changes.ts';
import { DAY_S } from '../session/check.ts';
import { removedWith } from '../session/dependents.ts';
import { sendId, settingsOf, type Lane, type Session } from '../session/entities.ts';
import { newRow } from '../session/tables.ts';
import { LANE_OF } from '../session/tables/lane.ts';
import { isVca } from '../session/vcas.ts';
import { clampDb } from '../units.ts';
import { counted } from '../session/select.ts';
import { define, id, ids, level, newId, whole } from './define.ts';
import { linkedLanes, linkedThrow } from './linked/lanes.ts';
import { inSequence } from './sequence.ts';

/** What keeps a lane of something from being made, in words. */
function refused(session: Session, place: LanePlace): Result<never> | null {
  const { channelId, of, targetId, insertId, param } = place;
  const channel = session.channel.get(channelId);
  if (!channel) return refuse('not-found', 'This channel is no longer in the session.', { id: channelId });
  const no = (words: string) => refuse('bad-arguments', words);
  const insert = insertId === null ? undefined : session.insert.get(insertId);
  if (isVca(channel) && of !== 'fader' && of !== 'mute') return no(`${channel.name} is a VCA: its fader and its mute can have lanes.`);
  if (of === 'sendLevel' || of === 'sendTrim' || of === 'sendOn') {
    if (targetId === null) return no(`A lane of a send says where it goes: give “target”.`);
    if (!session.send.has(sendId(channelId, targetId)))
      return refuse('not-found', `${channel.name} does not send there yet. Type a level first.`, { id: targetId });
  } else if (of === 'param' || of === 'bypass') {
    if (!insert || insert.channelId !== channelId) return refuse('not-found', `This insert is not on ${channel.name} any more.`);
    if (of === 'param') {
      const { specs, title } = processors[insert.type];
      const spec = param === null ? undefined : specs.get(param);
      if (!spec) return no(`Name a “param” of the ${title}: ${[...specs.keys()].join(', ')}.`);
      if (spec.latency) return no(`${spec.label} says how late the ${title} is: it cannot change over time.`);
    }
  } else if ((of === 'spread' || of === 'panRight') && widthOf(session, channel) === 1)
    return no(`${channel.name} leaves in mono: it has neither a width nor a second pin.`);
  else if (of === 'panRight' && channel.panRight === null) return no(`${channel.name} has one pin. Give it a second one first.`);
  const present = laneOf(session, place);
  return present ? refuse('exists', `There is a lane for the ${laneName(session, place)} already.`, { id: present.id }) : null;
}

const ofLane = () => yup.string().oneOf([...LANE_OF] as const);

/**
 * A lane: of `fader`, `faderTrim` (dB besides), `pan`, `panRight`, `spread`, `mute`; of the send to `target` its `sendLevel`, `sendTrim`,
 * `sendOn`; of the insert `insertId` a `param` or its `bypass`. It plays once it has points; with `begin` it has one, at what the value
 * is now.
 * @example { "do": "lanes.add", "id": "wave", "channelId": "a", "of": "sendLevel", "target": "echo", "begin": true }
 */
export const lanesAdd = define({
  name: 'lanes.add',
  schema: yup.object({
    id: newId().required(),
    channelId: id().required(),
    of: ofLane().required(),
    target: id(),
    insertId: id(),
    param: yup.string().min(1).max(80),
    begin: yup.boolean()
  }),
  label: (session, args) => `New lane: ${laneName(session, placeOf(args))}`,
  plan: (session, { id: laneId, begin, ...args }) => {
    const place = placeOf(args);
    const wrong = refused(session, place);
    if (wrong) return wrong;
    if (session.lane.has(laneId)) return refuse('exists', 'A lane with this id exists already.');
    const made = creation('lane', laneId, newRow('lane', { id: laneId, ...place }));
    if (!begin) return ok([made]);
    return ok([made, ...stretchChanges(session, laneId, 0, 0, [pointAt(session, place, 0)])]);
  }
});

const pointAt = (session: Session, place: LanePlace, at: number): Place => ({
  at,
  value: clampTo(kindOf(session, place)!, restingValue(session, place)),
  shape: kindOf(session, place)!.scale === 'steps' ? 'hold' : 'linear'
});

type Given = { channelId: string; of: Lane['of']; target?: string; insertId?: string; param?: string };
const placeOf = ({ channelId, of, target, insertId, param }: Given): LanePlace => ({
  channelId,
  of,
  targetId: of.startsWith('send') ? (target ?? null) : null,
  insertId: of === 'param' || of === 'bypass' ? (insertId ?? null) : null,
  param: of === 'param' ? (param ?? null) : null
});

export function lanesIn(session: Session, given: readonly string[]): Result<Lane[]> {
  const found: Lane[] = [];
  for (const laneId of new Set(given)) {
    const lane = session.lane.get(laneId);
    if (!lane) return refuse('not-found', 'One of these lanes is no longer in the session. Select again.', { id: laneId });
    found.push(lane);
  }
  return ok(found);
}

/** "the fader of Lead voice", or "3 lanes". */
export const lanesText = (session: Session, given: readonly string[]): string => {
  const lane = given.length === 1 ? session.lane.get(given[0]) : undefined;
  return lane ? laneName(session, lane) : `${given.length} lanes`;
};

/**
 * Lets lanes play, or switches them off: then the value stands where it was set. Their points stay.
 * @example { "do": "lanes.set", "ids": ["ride"], "plays": false }
 */
export const lanesSet = define({
  name: 'lanes.set',
  linked: linkedLanes('lanes.set'),
  schema: yup.object({ ids: ids(), plays: yup.boolean().required() }),
  label: (session, { ids: given, plays }) => `${plays ? 'Play' : 'Switch off'} lane: ${lanesText(session, given)}`,
  plan: (session, { ids: given, plays }) => {
    const found = lanesIn(session, given);
    return found.ok ? ok(found.value.flatMap((lane) => update(session, 'lane', lane.id, { plays }))) : found;
  }
});

/**
 * Takes lanes away, with their points.
 * @example { "do": "lanes.remove", "ids": ["ride"] }
 */
export const lanesRemove = define({
  name: 'lanes.remove',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids: given }) => `Remove lane: ${lanesText(session, given)}`,
  plan: (session, { ids: given }) => {
    const found = lanesIn(session, given);
    return found.ok ? ok(lanesGone(session, found.value)) : found;
  }
});

/** Removals of lanes with their points. */
export const lanesGone = (session: Session, lanes: readonly Lane[]): Change[] => [
  ...removedWith(session, new Set(lanes.map((lane) => lane.id)), 'lane'),
  ...lanes.map((lane) => removal(session, 'lane', lane.id))
];

/** Lanes of a send that is removed, or, with `to`, that goes to another channel now. */
export function lanesOfSend(session: Session, sourceId: string, targetId: string, to?: string): Change[] {
  const own = (['sendLevel', 'sendTrim', 'sendOn'] as const).flatMap((of) => laneOf(session, { channelId: sourceId, of, targetId }) ?? []);
  return to === undefined ? lanesGone(session, own) : own.flatMap((lane) => update(session, 'lane', lane.id, { targetId: to }));
}

/** A stretch of the timeline; all of it where nothing is given. */
const stretch = { from: whole(), to: whole() };
type Stretch = { readonly from?: number; readonly to?: number };

const wrongStretch = (session: Session, { from = 0, to = 0 }: Stretch): Result<never> | null =>
  to !== 0 && from >= to
    ? refuse('bad-arguments', 'A stretch ends after it begins: give a later “to”.')
    : Math.max(from, to) > DAY_S * settingsOf(session).rate
      ? refuse('too-large', 'The timeline is a day long at most. Choose an earlier place.')
      : null;

/** Lanes whose points within a stretch become what `each` makes of them, going over at its edges. */
function reshaped(
  session: Session,
  given: readonly string[],
  range: Stretch,
  each: (points: readonly Place[], kind: LaneKind) => readonly Place[]
): Result<Change[]> {
  const found = lanesIn(session, given);
  if (!found.ok) return found;
  const wrong = wrongStretch(session, range);
  if (wrong) return wrong;
  const edge = edgeFrames(settingsOf(session).rate);
  return inSequence(session, found.value, (lane) => {
    const kind = kindOf(session, lane)!;
    const points = pointsOf(session, lane.id);
    if (kind.scale === 'steps') return refuse('bad-arguments', `The ${laneName(session, lane)} is a switch: set its points one by one.`);
    if (points.length === 0) return ok([]);
    if (range.from === undefined && range.to === undefined) return ok(pointChanges(session, lane, each(points, kind)));
    const [from, to] = [range.from ?? 0, range.to ?? Math.max(points.at(-1)!.at, (range.from ?? 0) + 1)];
    const inside = withPointsAt(points, kind, [from, to]).filter(({ at }) => at >= from && at <= to);
    return ok(pointChanges(session, lane, replaced(points, kind, each(inside, kind), edge)));
  });
}

/**
 * Lanes by a difference: dB, a pan’s steps, a width’s per cent, and of frequencies, times and ratios per cent of what they are; all of them
 * or from frame `from` to `to`.
 * @example { "do": "lanes.trim", "ids": ["ride"], "by": -1.5, "from": 48000, "to": 96000 }
 */
export const lanesTrim = define({
  name: 'lanes.trim',
  linked: linkedLanes('lanes.trim'),
  schema: yup.object({ ids: ids(), by: yup.number().min(-1e5).max(1e5).required(), ...stretch }),
  label: (session, { ids: given, by }) =>
    `Trim ${lanesText(session, given)} by ${by > 0 ? '+' : '−'}${Math.abs(Math.round(by * 100) / 100)}`,
  plan: (session, { ids: given, by, ...range }) =>
    reshaped(session, given, range, (points, { scale }) => points.map((point) => ({ ...point, value: moved(scale, point.value, by) })))
});

/**
 * Lanes made steeper or flatter: each value’s distance from `around` times `by`; `around` is the first value unless it is given.
 * @example { "do": "lanes.scale", "ids": ["ride"], "by": 0.5, "around": -6 }
 */
export const lanesScale = define({
  name: 'lanes.scale',
  linked: linkedLanes('lanes.scale'),
  schema: yup.object({ ids: ids(), by: yup.number().min(-100).max(100).required(), around: yup.number(), ...stretch }),
  label: (session, { ids: given, by }) => `Scale ${lanesText(session, given)} to ${Math.round(by * 100)} %`,
  plan: (session, { ids: given, by, around, ...range }) =>
    reshaped(session, given, range, (points, { scale }) => {
      const middle = around ?? points.find(({ value }) => value > -Infinity)?.value ?? 0;
      return points.map((point) => {
        if (point.value === -Infinity) return point;
        const value = scale === 'ratio' ? middle * (point.value / middle) ** by : middle + (point.value - middle) * by;
        return { ...point, value: Number.isFinite(value) ? value : point.value };
      });
    })
});

/**
 * Lanes smoothed: each point goes half the way to the middle of its neighbours.
 * @example { "do": "lanes.smooth", "ids": ["ride"] }
 */
export const lanesSmooth = define({
  name: 'lanes.smooth',
  linked: linkedLanes('lanes.smooth'),
  schema: yup.object({ ids: ids(), ...stretch }),
  label: (session, { ids: given }) => `Smooth ${lanesText(session, given)}`,
  plan: (session, { ids: given, ...range }) =>
    reshaped(session, given, range, (points, { scale }) =>
      points.map((point, i) => {
        const [before, after] = [points[i - 1], points[i + 1]];
        if (!before || !after || [before, point, after].some(({ value }) => value === -Infinity)) return point;
        const there = between(scale, before.value, after.value, (point.at - before.at) / (after.at - before.at));
        return { ...point, value: between(scale, point.value, there, 0.5) };
      })
    )
});

/**
 * What a lane does from frame `from` to `to`, at other places or in other lanes of like values, in place of what is there.
 * @example { "do": "lanes.copy", "lane": "ride", "from": 0, "to": 24000, "onto": [{"lane": "ride", "at": 96000}] }
 */
export const lanesCopy = define({
  name: 'lanes.copy',
  schema: yup.object({
    lane: id().required(),
    from: whole().required(),
    to: whole().required(),
    onto: yup
      .array()
      .of(yup.object({ lane: id().required(), at: whole().required() }))
      .min(1)
      .required()
  }),
  label: (session, { lane }) => `Copy ${lanesText(session, [lane])}`,
  plan: (session, { lane: fromId, from, to, onto }) => {
    const found = lanesIn(session, [fromId, ...onto.map(({ lane }) => lane)]);
    if (!found.ok) return found;
    const latest = Math.max(...onto.map(({ at }) => at)) + to - from;
    const wrong = wrongStretch(session, { from, to }) ?? wrongStretch(session, { from: latest });
    if (wrong) return wrong;
    const lane = session.lane.get(fromId)!;
    const kind = kindOf(session, lane)!;
    const points = pointsOf(session, fromId);
    if (points.length === 0) return refuse('empty', `There is nothing in the ${laneName(session, lane)} to copy.`);
    const piece = withPointsAt(points, kind, [from, to]).filter(({ at }) => at >= from && at <= to);
    const edge = edgeFrames(settingsOf(session).rate);
    return inSequence(session, onto, ({ lane: ontoId, at: begin }) => {
      const other = session.lane.get(ontoId)!;
      const theirs = kindOf(session, other)!;
      if (theirs.scale !== kind.scale || theirs.unit !== kind.unit)
        return refuse('bad-arguments', `The ${laneName(session, other)} has other values than the ${laneName(session, lane)}.`);
      const stroke = piece.map((point) => ({ ...point, at: point.at - from + begin }));
      return ok(pointChanges(session, other, replaced(pointsOf(session, ontoId), theirs, stroke, edge)));
    });
  }
});

/** The id of a lane that a command makes for a channel: short enough to be one. */
const laneIdFor = (as: string, channelId: string) => `${as}:${channelId}`.slice(0, 80);

/**
 * A throw: the sends of channels to `target` up to `level`, from frame `from`, where they begin to rise, to frame `to`, where they begin to
 * fall; `rise` and `fall` in frames. A send that has no lane yet gets one, its id beginning with `as`.
 * @example { "do": "lanes.throw", "ids": ["a"], "target": "echo", "from": 24000, "to": 48000, "level": -3, "rise": 480, "fall": 2400, "as": "throw" }
 */
export const lanesThrow = define({
  name: 'lanes.throw',
  linked: linkedThrow,
  schema: yup.object({
    ids: ids(),
    target: id().required(),
    from: whole().required(),
    to: whole().required(),
    level: level().required(),
    rise: whole(),
    fall: whole(),
    as: newId().required()
  }),
  label: (session, { ids: given, target }) => `Throw ${counted(session, given)} to ${session.channel.get(target)?.name ?? 'return'}`,
  plan: (session, { ids: given, target, from, to, level: high, rise, fall, as }) => {
    const edge = edgeFrames(settingsOf(session).rate);
    const [up, down] = [Math.max(1, rise ?? edge), Math.max(1, fall ?? edge)];
    const wrong = wrongStretch(session, { from, to: to + down });
    if (wrong) return wrong;
    if (from + up > to) return refuse('bad-arguments', 'A throw falls after it has risen: give a later “to” or a shorter “rise”.');
    return inSequence(session, new Set(given), (channelId) => {
      const place: LanePlace = { channelId, of: 'sendLevel', targetId: target, insertId: null, param: null };
      const present = laneOf(session, place);
      const changes: Change[] = [];
      if (!present) {
        const without = refused(session, place);
        if (without) return without;
        const laneId = laneIdFor(as, channelId);
        if (session.lane.has(laneId)) return refuse('exists', 'A lane with this id exists already.');
        changes.push(creation('lane', laneId, newRow('lane', { id: laneId, ...place })));
      }
      const lane = present ?? { id: laneIdFor(as, channelId), ...place, plays: true };
      const kind = kindOf(session, place)!;
      const known = pointsOf(session, lane.id);
      const points: readonly Place[] = known.length ? known : [{ ...pointAt(session, place, 0), at: 0 }];
      const kept = withPointsAt(points, kind, [from, to + down]);
      return ok([
        ...changes,
        ...pointChanges(session, lane, [
          ...kept.filter(({ at }) => at < from),
          { at: from, value: valueAt(points, kind.scale, from), shape: 'linear' },
          { at: from + up, value: clampDb(high), shape: 'linear' },
          { at: to, value: clampDb(high), shape: 'linear' },
          ...kept.filter(({ at }) => at >= to + down)
        ])
      ]);
    });
  }
});

/**
 * Lanes that never move become what they are of again: the value is set to theirs and they go.
 * @example { "do": "lanes.settle", "ids": ["still"] }
 */
export const lanesSettle = define({
  name: 'lanes.settle',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids: given }) => `Settle ${lanesText(session, given)}`,
  plan: (session, { ids: given }) => {
    const found = lanesIn(session, given);
    if (!found.ok) return found;
    return inSequence(session, found.value, (lane) => {
      const points = pointsOf(session, lane.id);
      if (points.some(({ value }) => value !== points[0].value))
        return refuse('bad-arguments', `The ${laneName(session, lane)} moves: only a lane that stays at one value can become it.`);
      const own = points.length ? settled(session, lane, points[0].value) : [];
      return own === null
        ? refuse('bad-arguments', `A ${laneTitle(session, lane)} has no value of its own to go into. Remove it instead.`)
        : ok([...own, ...lanesGone(session, [lane])]);
    });
  }
});

/** The changes that set what a lane is of; null where it has nothing of its own. */
function settled(session: Session, lane: Lane, value: number): Change[] | null {
  const { channelId, of, targetId, insertId, param } = lane;
  const send = targetId === null ? '' : sendId(channelId, targetId);
  if (of === 'faderTrim' || of === 'sendTrim') return value === 0 ? [] : null;
  if (of === 'fader') return update(session, 'channel', channelId, { faderDb: value });
  if (of === 'pan' || of === 'panRight' || of === 'spread') return update(session, 'channel', channelId, { [of]: value });
  if (of === 'mute') return update(session, 'channel', channelId, { mute: value >= 0.5 });
  if (of === 'sendLevel') return update(session, 'send', send, { levelDb: value });
  if (of === 'sendOn') return update(session, 'send', send, { on: value >= 0.5 });
  if (of === 'bypass') return update(session, 'insert', insertId!, { bypass: value >= 0.5 });
  return update(session, 'insert', insertId!, { params: { ...session.insert.get(insertId!)!.params, [param!]: value } });
}

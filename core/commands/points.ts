// Points of lanes: set, moved, taken away.
import * as yup from 'yup';
import { replaced, pointChanges, stretchChanges, type Place } from '../lanes/edit.ts';
import { clampTo, kindOf, laneName, type LaneKind } from '../lanes/kinds.ts';
import { pointsOf } from '../lanes/points.ts';
import { ok, refuse, type Result } from '../result.ts';
import { DAY_S } from '../session/check.ts';
import { settingsOf, type Lane, type Session } from '../session/entities.ts';
import { removal } from '../session/changes.ts';
import { rowId } from '../session/tables.ts';
import { SHAPES, type Shape } from '../session/tables/point.ts';
import { define, id, whole } from './define.ts';
import { linkedMoves, linkedPoints } from './linked/lanes.ts';
import { lanesIn, lanesText } from './lanes.ts';

/** So many points a lane can have, and so many come at once. */
const MOST_POINTS = 100_000;

type Given = { readonly at: number; readonly value: number; readonly shape?: Shape };

/** A list of points, checked in one go: there may be tens of thousands. */
const points = () =>
  yup
    .mixed<Given[]>((value): value is Given[] => Array.isArray(value))
    .transform((value: unknown) =>
      Array.isArray(value)
        ? value.map((point: unknown) =>
            typeof point === 'object' && point !== null && 'value' in point && point.value === '-inf'
              ? { ...point, value: -Infinity }
              : point
          )
        : value
    )
    .test('points', (list, context) => {
      const wrong = (i: number, field: string, message: string) =>
        context.createError({ path: `${context.path}[${i}].${field}`, message: `${context.path}[${i}].${field}: ${message}` });
      if (!list?.length) return context.createError({ message: 'give one point at least' });
      if (list.length > MOST_POINTS) return context.createError({ message: `at most ${MOST_POINTS} points can be set at once` });
      let last = -1;
      for (const [i, point] of list.entries()) {
        if (typeof point !== 'object' || point === null) return wrong(i, 'at', 'a point is an object');
        const { at, value, shape } = point;
        if (typeof at !== 'number' || !Number.isSafeInteger(at) || at < 0)
          return wrong(i, 'at', 'a place is a whole number of frames, from 0 up');
        if (at <= last) return wrong(i, 'at', 'points come in the order of time, each frame once');
        if (typeof value !== 'number' || Number.isNaN(value) || value === Infinity)
          return wrong(i, 'value', 'a value is a number, or -inf');
        if (shape !== undefined && !SHAPES.includes(shape)) return wrong(i, 'shape', `a shape is one of ${SHAPES.join(', ')}`);
        last = at;
      }
      return true;
    })
    .required();

function laneIn(session: Session, laneId: string): Result<{ readonly lane: Lane; readonly kind: LaneKind }> {
  const found = lanesIn(session, [laneId]);
  if (!found.ok) return found;
  const [lane] = found.value;
  const kind = kindOf(session, lane);
  return kind ? ok({ lane, kind }) : refuse('not-found', 'What this lane moves is no longer there.', { id: laneId });
}

const nth = (count: number) => (count === 1 ? 'A point' : `${count} points`);

/**
 * Points of a lane, by time: each at a frame, its value in the unit of what the lane is of (of a switch 0 or 1), and the shape of what
 * follows, `hold`, `linear` or `eased`; as the point there before if it is left out. With `replace` they take the place of all that lies
 * between the first and the last, and the lane goes over to them within `edge` frames.
 * @example { "do": "points.set", "lane": "ride", "points": [{"at": 0, "value": -3, "shape": "linear"}, {"at": 48000, "value": "-inf", "shape": "hold"}] }
 */
export const pointsSet = define({
  name: 'points.set',
  schema: yup.object({ lane: id().required(), points: points(), replace: yup.boolean(), edge: whole() }),
  linked: linkedPoints,
  label: (session, { lane, points: given }) => `${nth(given.length)} of the ${lanesText(session, [lane])}`,
  plan: (session, { lane: laneId, points: given, replace, edge = 0 }) => {
    const found = laneIn(session, laneId);
    if (!found.ok) return found;
    const { lane, kind } = found.value;
    if (given[given.length - 1].at > DAY_S * settingsOf(session).rate)
      return refuse('too-large', 'The timeline is a day long at most. Choose an earlier place.');
    const steps = kind.scale === 'steps';
    const moving = steps && given.findIndex(({ shape }) => shape === 'linear' || shape === 'eased');
    if (moving !== false && moving >= 0)
      return refuse('bad-arguments', `The ${laneName(session, lane)} is a switch, which holds: give the shape “hold”.`, { index: moving });
    const present = pointsOf(session, laneId);
    const outside = given.find(({ value }) =>
      value === -Infinity ? kind.scale !== 'level' : value < kind.min - 1e-9 || value > kind.max + 1e-9
    );
    if (outside)
      return refuse(
        'bad-arguments',
        `${outside.value === -Infinity ? '−∞' : outside.value} is out of range: the ${laneName(session, lane)} goes from ${kind.scale === 'level' ? '−∞' : kind.min} to ${kind.max}${kind.unit && ` ${kind.unit}`}.`
      );
    const shapes = new Map(present.map((point) => [point.at, point.shape]));
    const shapeAt = (at: number): Shape => (steps ? 'hold' : (shapes.get(at) ?? 'linear'));
    const stroke = given.map(({ at, value, shape }): Place => ({ at, value: clampTo(kind, value), shape: shape ?? shapeAt(at) }));
    const whole = replace ? replaced(present, kind, stroke, edge) : null;
    const count = whole?.length ?? present.length + stroke.filter(({ at }) => !shapes.has(at)).length;
    if (count > MOST_POINTS) return refuse('too-many', `A lane has ${MOST_POINTS} points at most. Thin it out first.`);
    return ok(whole ? pointChanges(session, lane, whole) : stretchChanges(session, laneId, 1, 0, stroke));
  }
});

/**
 * Moves points of a lane, those at the frames `at`, by so many frames and so much in value (dB, steps, of ratios per cent); they do not
 * pass those that stay.
 * @example { "do": "points.move", "lane": "swell", "at": [24000], "by": 1200, "add": 1.5 }
 */
export const pointsMove = define({
  name: 'points.move',
  schema: yup.object({
    lane: id().required(),
    at: yup.array().of(whole().required()).min(1, 'select points first').max(MOST_POINTS).required(),
    by: yup.number().integer().min(-Number.MAX_SAFE_INTEGER).max(Number.MAX_SAFE_INTEGER).default(0),
    add: yup.number().min(-1e6).max(1e6).default(0)
  }),
  linked: linkedMoves('points.move'),
  label: (session, { lane, at }) => `Move ${at.length === 1 ? 'a point' : `${at.length} points`} of the ${lanesText(session, [lane])}`,
  plan: (session, { lane: laneId, at, by, add }) => {
    const found = laneIn(session, laneId);
    if (!found.ok) return found;
    const { kind } = found.value;
    const chosen = new Set(at);
    const all = pointsOf(session, laneId);
    const mine = all.filter((point) => chosen.has(point.at));
    if (mine.length < chosen.size) return refuse('not-found', 'One of these points is no longer there. Select again.');
    // As far as all can go: each stays between the neighbours that stay.
    let shift = by;
    all.forEach((point, i) => {
      if (!chosen.has(point.at)) return;
      const [before, after] = [all[i - 1], all[i + 1]];
      if (!before) shift = Math.max(shift, -point.at);
      else if (!chosen.has(before.at)) shift = Math.max(shift, before.at + 1 - point.at);
      if (after && !chosen.has(after.at)) shift = Math.min(shift, after.at - 1 - point.at);
    });
    shift = Math.min(shift, DAY_S * settingsOf(session).rate - mine[mine.length - 1].at);
    const next = mine.map((point): Place => {
      const value = kind.scale === 'ratio' ? point.value * (1 + add / 100) : kind.scale === 'steps' ? point.value : point.value + add;
      return { at: point.at + shift, value: clampTo(kind, value), shape: point.shape };
    });
    const gone = mine.filter((point) => !next.some((place) => place.at === point.at));
    return ok([...gone.map((point) => removal(session, 'point', rowId('point', point))), ...stretchChanges(session, laneId, 1, 0, next)]);
  }
});

/**
 * Takes points of a lane away: those at the frames `at`, or all from frame `from` to `to`. A lane without points does not play.
 * @example { "do": "points.remove", "lane": "swell", "at": [24000] }
 */
export const pointsRemove = define({
  name: 'points.remove',
  linked: linkedMoves('points.remove'),
  schema: yup.object({ lane: id().required(), at: yup.array().of(whole().required()).max(MOST_POINTS), from: whole(), to: whole() }),
  label: (session, { lane, at }) =>
    at?.length === 1 ? `Remove a point of the ${lanesText(session, [lane])}` : `Remove points of the ${lanesText(session, [lane])}`,
  plan: (session, { lane: laneId, at, from, to }) => {
    const found = laneIn(session, laneId);
    if (!found.ok) return found;
    if (!at && from === undefined && to === undefined) return refuse('bad-arguments', 'Say which points: “at”, or “from” and “to”.');
    const chosen = new Set(at);
    const mine = pointsOf(session, laneId).filter((point) =>
      at ? chosen.has(point.at) : point.at >= (from ?? 0) && point.at <= (to ?? Infinity)
    );
    if (at && mine.length < chosen.size) return refuse('not-found', 'One of these points is no longer there. Select again.');
    return ok(mine.map((point) => removal(session, 'point', rowId('point', point))));
  }
});

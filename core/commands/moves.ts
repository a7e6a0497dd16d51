// Relative moves: what a hand on a fader, a pin or a value means, rather than the list of what comes of it. A gesture sends `lead`, with
// where the one under the hand began, was at the last move and is now, and `anchors`, where all that moves began; `by` is in short.
import * as yup from 'yup';
import { movedLevel, setLevel } from '../links/relative.ts';
import { specsOf } from '../processors/index.ts';
import { isLogarithmic } from '../processors/spec.ts';
import { ok, refuse } from '../result.ts';
import { sendId, type Session } from '../session/entities.ts';
import { update } from '../session/changes.ts';
import { channelsOf, counted, dbText } from '../session/select.ts';
import { clampDb, clampPan, FLOOR_DB, TOP_DB } from '../units.ts';
import { setField } from './byHand.ts';
import { define, id, level, manyIds } from './define.ts';
import { linkedNudge, nudged } from './linked/inserts.ts';
import { handOn, onLane, type Moved } from './hand.ts';
import { faderOf, linkedFaderMove, moveOf, type MoveArgs } from './linked/levels.ts';
import { linkedPanMove, movedPins } from './linked/pans.ts';
import { linkedSendMove, sendLevelOf } from './linked/sends.ts';
import { titled } from './inserts.ts';

/** Where values began, by id, each brought into its range; −∞ as "-inf". */
const anchors = (within: (value: number) => number) =>
  yup
    .mixed<Record<string, number>>()
    .transform((value: unknown) =>
      typeof value === 'object' && value !== null && !Array.isArray(value)
        ? Object.fromEntries(
            Object.entries(value).map(([key, at]) => [key, at === '-inf' ? within(-Infinity) : typeof at === 'number' ? within(at) : NaN])
          )
        : value
    )
    .test(
      'anchors',
      '${path} are numbers by id',
      (value) => value === undefined || (typeof value === 'object' && Object.values(value).every((at) => !Number.isNaN(at)))
    );
/** Further than anything can go. */
const FAR = 1e6;
const distance = () => yup.number().min(-FAR).max(FAR);
const position = () =>
  level().test('far', '${path} is too far away', (value) => value == null || value === -Infinity || Math.abs(value) <= FAR);
const common = {
  by: distance(),
  /** Set where it moves with others: what goes to −∞ remembers what it was. */
  linked: yup.boolean(),
  ...onLane
};
/** By how much a move goes on from its last one, which is what a lane that plays is shifted by. */
const further = ({ by, lead }: MoveArgs): Pick<Moved, 'to' | 'by'> => {
  if (!lead) return { by };
  return lead.to === -Infinity || lead.was === -Infinity ? { to: lead.to } : { by: lead.to - lead.was };
};
const movingLevels = {
  ...common,
  lead: yup.object({ from: position().required(), was: position().required(), to: position().required() }).default(undefined),
  anchors: anchors((value) => (value < FLOOR_DB ? -Infinity : Math.min(TOP_DB, value)))
};
const movingValues = (within: (value: number) => number) => ({
  ...common,
  lead: yup.object({ from: distance().required(), was: distance().required(), to: distance().required() }).default(undefined),
  anchors: anchors(within)
});
/** That a move says how far, in one way. */
const one = <T extends yup.Maybe<yup.AnyObject>>(schema: yup.ObjectSchema<T>): yup.ObjectSchema<T> =>
  schema.test('move', 'a move has either “by” or “lead”', (value: unknown) => {
    const { by, lead } = (value ?? {}) as { by?: unknown; lead?: unknown };
    return (by === undefined) !== (lead === undefined);
  });

const byText = ({ by, lead }: { by?: number; lead?: { from: number; to: number } }) => {
  if (by !== undefined) return `by ${dbText(by)} dB`;
  return lead!.to === -Infinity || lead!.from === -Infinity
    ? `to ${dbText(clampDb(lead!.to))} dB`
    : `by ${dbText(lead!.to - lead!.from)} dB`;
};

/**
 * Faders by a difference, each from where it is, or from where the gesture began.
 * @example { "do": "faders.move", "ids": ["a", "b"], "by": -1.5 }
 */
export const fadersMove = define({
  name: 'faders.move',
  schema: one(yup.object({ ids: manyIds(), ...movingLevels })),
  label: (session, args) => `Fader${args.ids.length > 1 ? 's' : ''} of ${counted(session, args.ids)} ${byText(args)}`,
  linked: linkedFaderMove,
  plan: (session, { ids, anchors: began, linked = false, lane, at, ...move }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const moves = found.value.map(({ id }) => ({ asked: { channelId: id, of: 'fader' as const }, ...further(move) }));
    const hand = handOn(session, moves, { lane, at });
    if (!hand.ok) return hand;
    return ok([
      ...hand.value.changes,
      ...found.value.flatMap(({ id }, i) => {
        if (hand.value.led.has(moves[i])) return [];
        const now = faderOf(session, id);
        const { level: faderDb, last: lastDb } = setLevel(now, movedLevel(now, began?.[id], moveOf(move)), linked, began?.[id]);
        return update(session, 'channel', id, { faderDb, lastDb });
      })
    ]);
  }
});

/**
 * Trims of inputs by a difference.
 * @example { "do": "trims.move", "ids": ["a"], "lead": {"from": 0, "was": -1, "to": -2}, "anchors": {"a": 0} }
 */
export const trimsMove = define({
  name: 'trims.move',
  schema: one(yup.object({ ids: manyIds(), ...movingLevels })),
  label: (session, args) => `Trim${args.ids.length > 1 ? 's' : ''} of ${counted(session, args.ids)} ${byText(args)}`,
  plan: (session, { ids, anchors: began, ...move }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    return ok(
      found.value.flatMap(({ id, trimDb }) =>
        update(session, 'channel', id, { trimDb: movedLevel({ level: trimDb, last: null }, began?.[id], moveOf(move)) })
      )
    );
  }
});

/**
 * Pans by a difference; two pins of a channel go together, as far as both can.
 * @example { "do": "pans.move", "ids": ["a", "b"], "by": 10 }
 */
export const pansMove = define({
  name: 'pans.move',
  schema: one(yup.object({ ids: manyIds(), ...movingValues((value) => Math.max(-100, Math.min(100, value))) })),
  label: (session, { ids }) => `Pan of ${counted(session, ids)}`,
  linked: linkedPanMove,
  plan: (session, { ids, anchors: began, lane, at, ...move }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const moves = found.value.map(({ id }) => ({ asked: { channelId: id, of: 'pan' as const }, ...further(move) }));
    const hand = handOn(session, moves, { lane, at });
    if (!hand.ok) return hand;
    return ok([
      ...hand.value.changes,
      ...found.value.flatMap(({ id, pan: now, panRight }, i) => {
        if (hand.value.led.has(moves[i])) return [];
        const { pan, right } = movedPins({ pan: now, right: panRight }, began?.[id], moveOf(move));
        return setField(session, id, 'pan', { pan, panRight: right === null ? null : clampPan(right) });
      })
    ]);
  }
});

/**
 * Sends of these channels to one target by a difference.
 * @example { "do": "sends.move", "ids": ["a"], "target": "echo", "by": 3 }
 */
export const sendsMove = define({
  name: 'sends.move',
  schema: one(yup.object({ ids: manyIds(), target: id().required(), ...movingLevels })),
  label: (session, args) => `Send ${counted(session, args.ids)} to ${session.channel.get(args.target)?.name ?? 'return'} ${byText(args)}`,
  linked: linkedSendMove,
  plan: (session, { ids, target, anchors: began, linked = false, lane, at, ...move }) => {
    const found = channelsOf(session, [...ids, target]);
    if (!found.ok) return found;
    const none = ids.find((source) => !session.send.has(sendId(source, target)));
    if (none) return refuse('not-found', `${session.channel.get(none)!.name} does not send there yet. Type a level first.`, { id: none });
    const sources = [...new Set(ids)];
    const moves = sources.map((channelId) => ({ asked: { channelId, of: 'sendLevel' as const, targetId: target }, ...further(move) }));
    const hand = handOn(session, moves, { lane, at });
    if (!hand.ok) return hand;
    return ok([
      ...hand.value.changes,
      ...sources.flatMap((source, i) => {
        if (hand.value.led.has(moves[i])) return [];
        const now = sendLevelOf(session, source, target);
        const { level: levelDb, last: lastDb } = setLevel(now, movedLevel(now, began?.[source], moveOf(move)), linked, began?.[source]);
        return update(session, 'send', sendId(source, target), { levelDb, lastDb });
      })
    ]);
  }
});

const paramLabel = (session: Session, ids: readonly string[], param: string) => {
  const insert = session.insert.get(ids[0]);
  return (insert && specsOf(insert.type).get(param)?.label) ?? param;
};

/**
 * One parameter of inserts by a difference; frequencies, times and ratios by a ratio, which `by` then is.
 * @example { "do": "inserts.nudge", "ids": ["comp"], "param": "threshold", "by": -2 }
 */
export const insertsNudge = define({
  name: 'inserts.nudge',
  schema: one(
    yup.object({ ids: manyIds(), param: yup.string().required(), ...movingValues((value) => Math.max(-FAR, Math.min(FAR, value))) })
  ),
  label: (session, { ids, param }) =>
    `${paramLabel(session, ids, param)} of ${ids.length === 1 ? titled(session, ids[0]) : `${ids.length} inserts`}`,
  linked: linkedNudge,
  plan: (session, { ids, param, anchors: began, lane, at, ...move }) => {
    for (const each of ids) {
      const insert = session.insert.get(each);
      if (!insert) return refuse('not-found', 'This insert is no longer in the session.', { id: each });
      if (!specsOf(insert.type).has(param)) return refuse('no-parameter', `There is no parameter “${param}” here.`, { name: param });
    }
    const own = [...new Set(ids)];
    const moves = own.map((each): Moved => {
      const { channelId, type } = session.insert.get(each)!;
      const asked = { channelId, of: 'param' as const, insertId: each, param };
      if (!isLogarithmic(specsOf(type).get(param)!)) return { asked, ...further(move) };
      // A ratio, of which a lane takes per cent.
      const ratio = move.lead ? move.lead.to / move.lead.was : (move.by ?? 1);
      return { asked, by: (ratio - 1) * 100 };
    });
    const hand = handOn(session, moves, { lane, at });
    if (!hand.ok) return hand;
    return ok([
      ...hand.value.changes,
      ...own.flatMap((each, i) => {
        if (hand.value.led.has(moves[i])) return [];
        const insert = session.insert.get(each)!;
        const value = nudged(insert, param, began?.[each], moveOf(move));
        return Number.isFinite(value) ? update(session, 'insert', each, { params: { ...insert.params, [param]: value } }) : [];
      })
    ]);
  }
});

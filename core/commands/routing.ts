// Commands that say where signals go: main outputs and sends.
import * as yup from 'yup';
import { laneOf, movesOverTime } from '../lanes/points.ts';
import { loopClosedBy } from '../routing/graph.ts';
import { levelOf } from '../routing/level.ts';
import { ok, refuse, type Result } from '../result.ts';
import { setLevel, type Level } from '../links/relative.ts';
import { clampDb, clampPan, TOP_DB, type Db } from '../units.ts';
import { creation, commit, merge, removal, update, type Change } from '../session/changes.ts';
import { newSend } from '../session/create.ts';
import { sendId, settingsOf, type Channel, type LaneOf, type Send, type Session, type Tap } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';
import { channelsOf, counted, dbText } from '../session/select.ts';
import { setField } from './byHand.ts';
import { cannotSend, canSend } from './canSend.ts';
import { linkedSends, linkedTaps, sendLevelOf } from './linked/sends.ts';
import { define, id, ids, level, whole } from './define.ts';
import { field } from './field.ts';
import { handOn, onLane, type Moved } from './hand.ts';

export type Output = { readonly outputId: string | null; readonly outputPair: number | null };

/** Why nothing can be routed into a channel, or null. */
export function notInto({ kind, name }: Channel): string | null {
  if (kind === 'track' || kind === 'key') return `${name} is a track: nothing can be routed into it. Choose a bus.`;
  if (kind === 'vca') return `${name} is a VCA: no audio goes through it. Put channels into it under Links.`;
  return kind === 'cue' ? `${name} is a cue: it takes sends. Send to it instead.` : null;
}

export const loopRefusal = (stations: string[]) =>
  refuse('loop', `This would feed back: ${stations.join(' → ')}. Choose another destination.`, { stations });

/** The changes that route channels exclusively to `to`, judged as if `pending` were made already. */
export function planRoute(
  session: Session,
  channelIds: readonly string[],
  to: Output,
  pending: readonly Change[],
  by: 'hand' | 'rule' = 'hand'
): Result<Change[]> {
  const undo = commit(session, pending);
  try {
    return routeNow(session, channelIds, to, by === 'rule');
  } finally {
    commit(session, undo);
  }
}

function routeNow(session: Session, channelIds: readonly string[], to: Output, auto: boolean): Result<Change[]> {
  if (channelIds.length === 0) return ok([]);
  const found = channelsOf(session, channelIds);
  if (!found.ok) return found;
  const { outputId, outputPair } = to;
  const vca = found.value.find(({ kind }) => kind === 'vca');
  if (vca && (outputId !== null || outputPair !== null))
    return refuse('vca', `${vca.name} is a VCA: no audio goes through it. Leave it out of the selection.`);
  if (outputId !== null) {
    const target = session.channel.get(outputId);
    if (!target) return refuse('not-found', 'That bus is no longer there. Choose another.', { id: outputId });
    const wrong = notInto(target);
    if (wrong) return refuse('not-a-bus', wrong);
    for (const { id, kind, name } of found.value) {
      if (kind === 'cue') return refuse('cue', `${name} is a cue: it goes to an interface output of its own.`);
      if (kind === 'key') return refuse('key', `${name} is a key track: only key inputs hear it. Leave it out of the selection.`);
      if (kind === 'mix' && target.kind !== 'bus' && id !== outputId)
        return refuse('mix-bus', 'The mix bus goes to an interface output, or on into a bus of the mix chain.');
    }
    const added = channelIds.map((from) => ({ from, to: outputId, via: 'output' as const }));
    const loop = loopClosedBy(session, added, new Set(channelIds));
    if (loop) return loopRefusal(loop);
  } else {
    if (outputPair !== null && outputPair * 2 + 2 > settingsOf(session).interfaceOutputs)
      return refuse('no-output', `The interface has ${settingsOf(session).interfaceOutputs} outputs. Choose one of them.`);
    for (const { kind, name } of found.value) {
      if (kind === 'mix' && outputPair === null)
        return refuse('mix-bus', 'The mix bus goes to an interface output. Leave it out of the selection.');
      if (kind === 'key' && outputPair !== null)
        return refuse('key', `${name} is a key track: only key inputs hear it. Leave it out of the selection.`);
    }
  }
  return ok(channelIds.flatMap((id) => setField(session, id, 'output', { ...to }, auto)));
}

/**
 * Main outputs: to a channel, to an interface output pair (0 is outputs 1–2), or to nothing.
 * @example { "do": "channels.route", "ids": ["a"], "to": "mix" }
 */
export const channelsRoute = define({
  name: 'channels.route',
  schema: yup.object({
    ids: ids(),
    to: id().nullable().default(null),
    pair: whole().max(63).nullable().default(null),
    auto: yup.boolean()
  }),
  label: (session, { ids, to, pair }) => {
    const where =
      to !== null ? (session.channel.get(to)?.name ?? 'a bus') : pair !== null ? `outputs ${pair * 2 + 1}–${pair * 2 + 2}` : 'nowhere';
    return `Route ${counted(session, ids)} to ${where}`;
  },
  plan: (session, { ids, to, pair, auto }) =>
    planRoute(session, ids, { outputId: to, outputPair: to === null ? pair : null }, [], auto ? 'rule' : 'hand')
});

const leveled = (now: Level, to: Db, linked: boolean): Pick<Send, 'levelDb' | 'lastDb'> => {
  const { level: levelDb, last: lastDb } = setLevel(now, to, linked);
  return { levelDb, lastDb };
};

const sendFields = yup.object({
  source: id().required(),
  target: id().required(),
  level: level(),
  tap: field('send', 'tap'),
  on: yup.boolean(),
  mono: yup.boolean(),
  pan: yup.number().nullable()
});

/**
 * Makes or changes crosspoints; a new one starts at −∞, `post`, on.
 * @example { "do": "sends.set", "sends": [{"source": "c", "target": "room", "level": -12, "tap": "post"}] }
 */
export const sendsSet = define({
  name: 'sends.set',
  schema: yup.object({ sends: yup.array().of(sendFields).min(1).required(), linked: yup.boolean(), ...onLane }),
  linked: linkedSends,
  label: (session, { sends }) => {
    const [first] = sends;
    const target = session.channel.get(first.target)?.name ?? 'return';
    const who = counted(session, [...new Set(sends.map((send) => send.source))]);
    const what =
      first.level !== undefined
        ? `to ${target} at ${dbText(clampDb(first.level))} dB`
        : first.tap !== undefined
          ? `to ${target}: ${first.tap}`
          : first.on !== undefined
            ? `to ${target} ${first.on ? 'on' : 'off'}`
            : first.mono !== undefined
              ? `to ${target} ${first.mono ? 'mono' : 'as wide as it is'}`
              : first.pan !== undefined
                ? `to ${target}: ${first.pan === null ? 'pan follows' : 'own pan'}`
                : `to ${target}`;
    return `Send ${who} ${what}`;
  },
  plan: (session, { sends, linked = false, ...onto }) => {
    const changes: Change[] = [];
    const added = sends.filter(({ source, target }) => !session.send.has(sendId(source, target)));
    for (const { source, target } of sends) {
      const found = channelsOf(session, [source, target]);
      if (!found.ok) return found;
      const to = session.channel.get(target) as Channel;
      if (to.kind === 'track' || to.kind === 'key' || to.kind === 'vca')
        return refuse('not-a-return', `${to.name} takes no sends. Choose a return or a bus.`);
      const from = session.channel.get(source)!;
      if (!canSend(from)) return refuse('sends-not', cannotSend(from));
    }
    const loop = loopClosedBy(
      session,
      added.map(({ source, target }) => ({ from: source, to: target, via: 'send' })),
      new Set()
    );
    if (loop) return loopRefusal(loop);
    // A crosspoint that is listed twice is one all the same: what is said of it last counts.
    const born = new Map<string, Send>();
    for (const { source, target, level, tap, on, mono, pan } of sends) {
      const key = sendId(source, target);
      const lane = (of: LaneOf, to: number | undefined): Moved[] =>
        to === undefined ? [] : [{ asked: { channelId: source, of, targetId: target }, to }];
      const moves = [
        ...lane('sendLevel', level === undefined ? undefined : clampDb(level)),
        ...lane('sendOn', on === undefined ? undefined : Number(on))
      ];
      const hand = handOn(session, moves, onto);
      if (!hand.ok) return hand;
      changes.push(...hand.value.changes);
      const led = new Set([...hand.value.led].map(({ asked }) => asked.of));
      const fields: Partial<Send> = {
        ...(level === undefined || led.has('sendLevel') ? {} : leveled(sendLevelOf(session, source, target), clampDb(level), linked)),
        ...(tap === undefined ? {} : { tap }),
        ...(on === undefined || led.has('sendOn') ? {} : { on }),
        ...(mono === undefined ? {} : { mono }),
        ...(pan === undefined ? {} : { pan: pan === null ? null : clampPan(pan) })
      };
      if (session.send.has(key)) changes.push(...update(session, 'send', key, fields));
      else born.set(key, { ...(born.get(key) ?? newSend(source, session.channel.get(target)!)), ...fields });
    }
    return ok([...merge([], changes), ...[...born].map(([key, send]) => creation('send', key, send))]);
  }
});

/**
 * Changes the taps of sends. With `keep` the level heard stays: the fader's gain moves into the send or out of it. That is refused
 * from a fader at −∞, beyond +12 dB, and where lanes are at work. Between `input` and the other two stand the inserts: only the gain is kept there.
 * @example { "do": "sends.tap", "sends": [{"source": "a", "target": "echo"}], "tap": "pre", "keep": true }
 */
export const sendsTap = define({
  name: 'sends.tap',
  schema: yup.object({
    sends: yup
      .array()
      .of(yup.object({ source: id().required(), target: id().required() }))
      .min(1)
      .required(),
    tap: field('send', 'tap').required(),
    keep: yup.boolean().default(false)
  }),
  linked: linkedTaps,
  label: (session, { sends, tap, keep }) => {
    const target = session.channel.get(sends[0].target)?.name ?? 'return';
    const who = counted(session, [...new Set(sends.map(({ source }) => source))]);
    const across = keep && sends.some((send) => crossesInserts(session, send, tap));
    return `Send ${who} to ${target}: ${tap}${keep ? `, level kept${across ? ' (its gain; inserts not counted)' : ''}` : ''}`;
  },
  plan: (session, { sends, tap, keep }) => {
    const changes: Change[] = [];
    for (const { source, target } of sends) {
      const key = sendId(source, target);
      const send = session.send.get(key);
      const from = session.channel.get(source);
      if (!send || !from) return refuse('not-found', 'There is no send here yet. Type a level first.');
      const moved = Number(send.tap === 'post') - Number(tap === 'post');
      if (!keep || moved === 0 || send.levelDb === -Infinity) {
        changes.push(...update(session, 'send', key, { tap }));
        continue;
      }
      const over = [movesOverTime(session, source), laneOf(session, { channelId: source, of: 'sendLevel', targetId: target })].some(
        Boolean
      );
      if (over)
        return refuse('automated', `The level of ${from.name}, or of its send, has a lane: change the tap without keeping the level.`);
      const faded = levelOf(session, from);
      if (faded === -Infinity)
        return refuse(
          'silent',
          `The fader of ${from.name}, or a VCA above it, is at −∞: there is no level to keep. Change the tap without keeping it.`
        );
      // Folded before a balance it is another sum than behind it.
      if (send.mono && from.width === 2 && (from.pan !== 0 || from.panRight !== null))
        return refuse(
          'changes-sound',
          `The mono send of ${from.name} is taken before its pan or behind it. Centre it, or do not keep the level.`
        );
      const level = send.levelDb + moved * faded;
      if (level > TOP_DB) return refuse('too-loud', `The send of ${from.name} would have to be ${dbText(level)} dB; +12 is the most.`);
      changes.push(...update(session, 'send', key, { tap, levelDb: clampDb(level) }));
    }
    return ok(changes);
  }
});

/** Whether inserts at work lie between a send's tap and another. */
const crossesInserts = (session: Session, { source, target }: { source: string; target: string }, tap: Tap): boolean => {
  const before = session.send.get(sendId(source, target))?.tap;
  if ((before === 'input') === (tap === 'input')) return false;
  return rowsBy(session, 'insert', 'channelId', source).some(({ bypass }) => !bypass);
};

/**
 * Takes the sends of some channels into one target away.
 * @example { "do": "sends.remove", "sources": ["a", "c"], "target": "echo" }
 */
export const sendsRemove = define({
  name: 'sends.remove',
  schema: yup.object({ sources: ids(), target: id().required() }),
  label: (session, { sources, target }) =>
    `Remove sends of ${counted(session, sources)} to ${session.channel.get(target)?.name ?? 'return'}`,
  plan: (session, { sources, target }) =>
    ok(
      sources
        .map((source) => sendId(source, target))
        .filter((key) => session.send.has(key))
        .map((key) => removal(session, 'send', key))
    )
});

// Commands that say where signals go: main outputs and sends.
import * as yup from 'yup';
import { loopClosedBy } from '../routing/graph.ts';
import { ok, refuse, type Result } from '../result.ts';
import { clampDb, clampPan } from '../units.ts';
import { birth, commit, removal, update, type Change } from '../session/changes.ts';
import { sendAtBirth } from '../session/birth.ts';
import { sendKey, type Channel, type Session } from '../session/entities.ts';
import { channelsOf, counted, dbText } from '../session/select.ts';
import { define, id, ids, level, whole } from './define.ts';

export type Output = { readonly outputId: string | null; readonly outputPair: number | null };

/** The three taps, in the order of the signal. */
export const TAPS = ['input', 'pre', 'post'] as const;

export const loopRefusal = (stations: string[]) =>
  refuse('loop', `This would feed back: ${stations.join(' → ')}. Choose another destination.`, { stations });

/** The changes that route channels exclusively to `to`, judged as if `pending` were made already. */
export function planRoute(session: Session, channelIds: readonly string[], to: Output, pending: readonly Change[]): Result<Change[]> {
  const undo = commit(session, pending);
  try {
    return routeNow(session, channelIds, to);
  } finally {
    commit(session, undo);
  }
}

function routeNow(session: Session, channelIds: readonly string[], to: Output): Result<Change[]> {
  if (channelIds.length === 0) return ok([]);
  const found = channelsOf(session, channelIds);
  if (!found.ok) return found;
  const { outputId } = to;
  if (outputId !== null) {
    const target = session.channel.get(outputId);
    if (!target) return refuse('not-found', 'That bus is no longer there. Choose another.', { id: outputId });
    if (target.kind === 'track') return refuse('not-a-bus', `${target.name} is a track: nothing can be routed into it. Choose a bus.`);
    if (found.value.some((channel) => channel.kind === 'mix'))
      return refuse('mix-bus', 'The mix bus goes to an interface output. Leave it out of the selection.');
    const added = channelIds.map((from) => ({ from, to: outputId, via: 'output' as const }));
    const loop = loopClosedBy(session, added, new Set(channelIds));
    if (loop) return loopRefusal(loop);
  } else if (to.outputPair === null && found.value.some((channel) => channel.kind === 'mix'))
    return refuse('mix-bus', 'The mix bus goes to an interface output. Leave it out of the selection.');
  return ok(channelIds.flatMap((id) => update(session, 'channel', id, { ...to })));
}

/** Main outputs: to a channel, to an interface output pair (0 is outputs 1–2), or to nothing. */
export const channelsRoute = define({
  schema: yup.object({ ids: ids(), to: id().nullable().default(null), pair: whole().max(63).nullable().default(null) }),
  label: (session, { ids, to, pair }) => {
    const where =
      to !== null ? (session.channel.get(to)?.name ?? 'a bus') : pair !== null ? `outputs ${pair * 2 + 1}–${pair * 2 + 2}` : 'nowhere';
    return `Route ${counted(session, ids)} to ${where}`;
  },
  plan: (session, { ids, to, pair }) => planRoute(session, ids, { outputId: to, outputPair: to === null ? pair : null }, [])
});

const sendFields = yup.object({
  source: id().required(),
  target: id().required(),
  level: level(),
  tap: yup.string().oneOf(TAPS),
  on: yup.boolean(),
  mono: yup.boolean(),
  pan: yup.number().nullable()
});

/** Makes or changes crosspoints; a new one starts at −∞, `post`, on. */
export const sendsSet = define({
  schema: yup.object({ sends: yup.array().of(sendFields).min(1).required() }),
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
  plan: (session, { sends }) => {
    const changes: Change[] = [];
    const added = sends.filter(({ source, target }) => !session.send.has(sendKey(source, target)));
    for (const { source, target } of sends) {
      const found = channelsOf(session, [source, target]);
      if (!found.ok) return found;
      const to = session.channel.get(target) as Channel;
      if (to.kind === 'track' || to.kind === 'mix') return refuse('not-a-return', `${to.name} takes no sends. Choose a return or a bus.`);
    }
    const loop = loopClosedBy(
      session,
      added.map(({ source, target }) => ({ from: source, to: target, via: 'send' })),
      new Set()
    );
    if (loop) return loopRefusal(loop);
    for (const { source, target, level, tap, on, mono, pan } of sends) {
      const key = sendKey(source, target);
      const fields = {
        ...(level === undefined ? {} : { levelDb: clampDb(level) }),
        ...(tap === undefined ? {} : { tap }),
        ...(on === undefined ? {} : { on }),
        ...(mono === undefined ? {} : { mono }),
        ...(pan === undefined ? {} : { pan: pan === null ? null : clampPan(pan) })
      };
      if (session.send.has(key)) changes.push(...update(session, 'send', key, fields));
      else changes.push(birth('send', key, { ...sendAtBirth(source, target), ...fields }));
    }
    return ok(changes);
  }
});

export const sendsRemove = define({
  schema: yup.object({ sources: ids(), target: id().required() }),
  label: (session, { sources, target }) =>
    `Remove sends of ${counted(session, sources)} to ${session.channel.get(target)?.name ?? 'return'}`,
  plan: (session, { sources, target }) =>
    ok(
      sources
        .map((source) => sendKey(source, target))
        .filter((key) => session.send.has(key))
        .map((key) => removal(session, 'send', key))
    )
});

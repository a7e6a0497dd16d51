// Twins: a copy of a shared return for each bus or stem, so that what comes out of a stem is all of it; and the way back.
import * as yup from 'yup';
import { dbOf, gainOf, clampDb, TOP_DB } from '../units.ts';
import { loopClosedBy } from '../routing/graph.ts';
import { ok, refuse, type Result } from '../result.ts';
import { birth, removal, update, type Change } from '../session/changes.ts';
import { nextBorn } from '../session/birth.ts';
import { sendKey, type Channel, type Session } from '../session/entities.ts';
import { branchOf } from '../routing/graph.ts';
import { channelsOf, insertsOf, positionAfter } from '../session/select.ts';
import { channelsRemove } from './channels.ts';
import { define, id, ids } from './define.ts';
import { loopRefusal } from './routing.ts';
import { inSequence } from './sequence.ts';

const byName = (session: Session, list: readonly { bus: string }[]) =>
  list.map(({ bus }) => session.channel.get(bus)?.name ?? 'a bus').join(', ');

/**
 * One copy of a return for each bus, named after it, with inserts, settings and level, going into the bus; the sends of all that is
 * routed into the bus go to the copy. Where nothing is sent to the original any more it goes.
 */
export const returnsTwin = define({
  schema: yup.object({
    id: id().required(),
    twins: yup
      .array()
      .of(yup.object({ id: id().required(), bus: id().required() }))
      .min(1, 'choose at least one bus')
      .required()
  }),
  label: (session, { id, twins }) => `Twin ${session.channel.get(id)?.name ?? 'return'} for ${byName(session, twins)}`,
  plan: (session, { id, twins }) => {
    const found = channelsOf(session, [id, ...twins.map(({ bus }) => bus)]);
    if (!found.ok) return found;
    if (found.value[0].kind !== 'return') return refuse('not-a-return', `${found.value[0].name} is no return. Choose one to twin.`);
    return inSequence(session, [...twins, null], (twin) => (twin ? twinned(session, id, twin) : removedIfIdle(session, id)));
  }
});

function twinned(session: Session, from: string, { id, bus }: { id: string; bus: string }): Result<Change[]> {
  const original = session.channel.get(from)!;
  const target = session.channel.get(bus)!;
  if (session.channel.has(id)) return refuse('exists', 'A channel with this id exists already.');
  if (target.kind !== 'bus' && target.kind !== 'return') return refuse('not-a-bus', `${target.name} is no bus. Choose buses.`);
  const inside = new Set(branchOf(session, bus));
  if (inside.has(from)) return refuse('inside', `${original.name} is inside ${target.name} already: it needs no twin there.`);
  const moved = [...session.send.values()].filter(
    ({ sourceId, targetId }) => targetId === from && sourceId !== bus && inside.has(sourceId)
  );
  if (moved.length === 0) return refuse('empty', `Nothing in ${target.name} is sent to ${original.name}. Choose another bus.`);
  const twin: Channel = {
    ...original,
    id,
    name: `${original.name} ${target.name}`,
    position: positionAfter(session, from),
    born: nextBorn(session),
    outputId: bus,
    outputPair: null,
    colour: target.colour
  };
  const changes: Change[] = [birth('channel', id, twin)];
  const sent = [...session.send.values()].filter(({ sourceId }) => sourceId === from);
  for (const send of sent) changes.push(birth('send', sendKey(id, send.targetId), { ...send, sourceId: id }));
  for (const insert of insertsOf(session, from)) {
    const own = {
      ...insert,
      id: `${id}:${insert.type}${insert.position}`,
      channelId: id,
      keyId: insert.keyId === from ? id : insert.keyId
    };
    changes.push(birth('insert', own.id, own));
  }
  for (const send of moved)
    changes.push(
      removal(session, 'send', sendKey(send.sourceId, from)),
      birth('send', sendKey(send.sourceId, id), { ...send, targetId: id })
    );
  const edges = [
    { from: id, to: bus, via: 'output' as const },
    ...sent.map(({ targetId }) => ({ from: id, to: targetId, via: 'send' as const })),
    ...moved.map(({ sourceId }) => ({ from: sourceId, to: id, via: 'send' as const }))
  ];
  const loop = loopClosedBy(session, edges, new Set());
  return loop ? loopRefusal(loop.map((name) => (name === id ? twin.name : name))) : ok(changes);
}

/** A return that nothing goes to any more, and that no key listens to, is removed. */
function removedIfIdle(session: Session, id: string): Result<Change[]> {
  const used =
    [...session.send.values()].some(({ targetId }) => targetId === id) ||
    [...session.channel.values()].some(({ outputId }) => outputId === id) ||
    [...session.insert.values()].some(({ keyId, channelId }) => keyId === id && channelId !== id);
  return used ? ok([]) : channelsRemove.plan(session, { ids: [id], membersTo: undefined });
}

/** What keeps two returns from being one: other inserts or other settings; null where they are equal. */
export function unequal(session: Session, a: string, b: string): string | null {
  const [one, other] = [session.channel.get(a)!, session.channel.get(b)!];
  const [mine, theirs] = [insertsOf(session, a), insertsOf(session, b)];
  if (mine.length !== theirs.length || mine.some(({ type }, i) => type !== theirs[i].type))
    return `${other.name} has other inserts than ${one.name}`;
  const different = mine.find(
    ({ params, bypass }, i) => bypass !== theirs[i].bypass || JSON.stringify(sorted(params)) !== JSON.stringify(sorted(theirs[i].params))
  );
  return different ? `${other.name} has other settings of its ${different.type} than ${one.name}` : null;
}
const sorted = (params: Readonly<Record<string, number>>) => Object.entries(params).sort(([a], [b]) => (a < b ? -1 : 1));

/**
 * The reverse: equal returns become the first of them, whose sends the others' become; levels of the others' faders move into
 * these. A channel that sends to several sends their sum. `to` is where the one that stays goes.
 */
export const returnsMerge = define({
  schema: yup.object({ ids: ids(), to: id() }),
  label: (session, { ids }) => `Merge ${ids.map((one) => session.channel.get(one)?.name ?? 'return').join(', ')}`,
  plan: (session, { ids, to }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const [kept, ...others] = found.value;
    if (others.length === 0) return refuse('bad-arguments', 'Select two returns or more to merge.');
    for (const other of found.value) {
      if (other.kind !== 'return') return refuse('not-a-return', `${other.name} is no return. Select returns only.`);
      const why = other === kept ? null : unequal(session, kept.id, other.id);
      if (why) return refuse('unequal', `${why}. Make them alike first.`);
    }
    return inSequence(session, [...others, null], (other) =>
      other
        ? merged(session, kept, other)
        : ok(to && to !== kept.id ? update(session, 'channel', kept.id, { outputId: to, outputPair: null }) : [])
    );
  }
});

function merged(session: Session, kept: Channel, other: Channel): Result<Change[]> {
  const changes: Change[] = [];
  const by = other.faderDb === kept.faderDb ? 0 : other.faderDb - kept.faderDb;
  if (Number.isNaN(by) || by === Infinity) return refuse('silent', `${kept.name} is at −∞. Raise its fader first.`);
  for (const send of session.send.values()) {
    if (send.targetId !== other.id || send.sourceId === kept.id) continue;
    const key = sendKey(send.sourceId, kept.id);
    const present = session.send.get(key);
    const moved = send.levelDb + by;
    const from = session.channel.get(send.sourceId)!.name;
    if (present && present.levelDb > -Infinity && moved > -Infinity && (present.tap !== send.tap || present.on !== send.on))
      return refuse('taps', `${from} sends to both with different taps. Make them alike first.`);
    const level = present ? dbOf(gainOf(present.levelDb) + gainOf(moved)) : moved;
    if (level > TOP_DB) return refuse('too-loud', `The send of ${from} would pass +12 dB.`);
    const fields = { ...send, targetId: kept.id, levelDb: clampDb(level) };
    changes.push(...(present ? update(session, 'send', key, { levelDb: fields.levelDb }) : [birth('send', key, fields)]));
    const loop = present ? null : loopClosedBy(session, [{ from: send.sourceId, to: kept.id, via: 'send' }], new Set());
    if (loop) return loopRefusal(loop);
  }
  return inSequence(session, [ok(changes), null], (step) => step ?? channelsRemove.plan(session, { ids: [other.id], membersTo: kept.id }));
}

// Twins: a copy of a shared return for each bus or stem, so that what comes out of a stem is all of it; and the way back.
import * as yup from 'yup';
import { dbOf, gainOf, clampDb, TOP_DB } from '../units.ts';
import { loopClosedBy } from '../routing/graph.ts';
import { ok, refuse, type Result } from '../result.ts';
import { creation, removal, update, type Change } from '../session/changes.ts';
import { nextBorn } from '../session/create.ts';
import { copiedWith } from '../session/dependents.ts';
import { idsBy, rowsBy } from '../session/lookup.ts';
import { sendId, type Channel, type Insert, type Send, type Session } from '../session/entities.ts';
import { laneName } from '../lanes/kinds.ts';
import { processors } from '../processors/index.ts';
import { branchOf } from '../routing/graph.ts';
import { levelOf, mutedOf } from '../routing/level.ts';
import { channelsOf, insertsOf, roomAfter } from '../session/select.ts';
import { columnsOf } from '../session/tables.ts';
import { cut } from '../text.ts';
import { channelsRemove } from './channels.ts';
import { define, id, ids, newId } from './define.ts';
import { lanesOfSend } from './lanes.ts';
import { loopRefusal, planRoute } from './routing.ts';
import { inSequence } from './sequence.ts';

const byName = (session: Session, list: readonly { bus: string }[]) =>
  list.map(({ bus }) => session.channel.get(bus)?.name ?? 'a bus').join(', ');

/**
 * One copy of a return for each bus, named after it, with inserts, settings and level, going into the bus; the sends of all that is
 * routed into the bus go to the copy. Where nothing is sent to the original any more it goes.
 * @example { "do": "returns.twin", "id": "echo", "twins": [{"id": "x", "bus": "bus"}] }
 */
export const returnsTwin = define({
  name: 'returns.twin',
  schema: yup.object({
    id: id().required(),
    twins: yup
      .array()
      .of(yup.object({ id: newId().required(), bus: id().required() }))
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
  const moved = rowsBy(session, 'send', 'targetId', from).filter(({ sourceId }) => sourceId !== bus && inside.has(sourceId));
  if (moved.length === 0) return refuse('empty', `Nothing in ${target.name} is sent to ${original.name}. Choose another bus.`);
  const room = roomAfter(session, from);
  const twin: Channel = {
    ...original,
    id,
    name: cut(`${original.name} ${target.name}`, 120),
    position: room.positions[0],
    born: nextBorn(session),
    outputId: bus,
    outputPair: null,
    colour: target.colour
  };
  const changes: Change[] = [...room.moved, creation('channel', id, twin)];
  const sent = rowsBy(session, 'send', 'sourceId', from);
  const copies = copiedWith(session, new Map([[from, id]]), {
    nameOf: (channelId, table, row, count) => `${channelId}:${String(row.type ?? table)}${count}`
  });
  changes.push(...copies);
  for (const send of moved)
    changes.push(
      removal(session, 'send', sendId(send.sourceId, from)),
      creation('send', sendId(send.sourceId, id), { ...send, targetId: id }),
      ...lanesOfSend(session, send.sourceId, from, id)
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
    idsBy(session, 'send', 'targetId', id).length > 0 ||
    idsBy(session, 'channel', 'outputId', id).length > 0 ||
    rowsBy(session, 'insert', 'keyId', id).some(({ channelId }) => channelId !== id);
  return used ? ok([]) : channelsRemove.plan(session, { ids: [id], membersTo: undefined });
}

/** What keeps two channels from being one: other inserts or settings or, with `placed`, other places; null where they are equal. */
export function unequal(session: Session, a: string, b: string, placed = true): string | null {
  const [one, other] = [session.channel.get(a)!, session.channel.get(b)!];
  const [mine, theirs] = [insertsOf(session, a), insertsOf(session, b)];
  if (mine.length !== theirs.length || mine.some(({ type }, i) => type !== theirs[i].type))
    return `${other.name} has other inserts than ${one.name}`;
  const keyed = (insert: Insert, of: string) =>
    insert.keyId === null ? '' : `${insert.keyId === of ? 'own' : insert.keyId} ${insert.keyTap}`;
  const different = mine.find(
    (insert, i) =>
      insert.bypass !== theirs[i].bypass ||
      keyed(insert, a) !== keyed(theirs[i], b) ||
      JSON.stringify(sorted(insert.params)) !== JSON.stringify(sorted(theirs[i].params))
  );
  if (different) return `${other.name} has other settings of its ${processors[different.type].title} than ${one.name}`;
  const apart = placed && ALIKE.find(([field]) => one[field] !== other[field]);
  return apart ? `${other.name} has another ${apart[1]} than ${one.name}` : null;
}
const sorted = (params: Readonly<Record<string, number>>) => Object.entries(params).sort(([a], [b]) => (a < b ? -1 : 1));
/** What of two returns has to be alike, besides their inserts: all that is heard; a difference of their faders can move into the sends. */
const ALIKE = Object.entries(columnsOf('channel'))
  .filter(([, { sound, merged }]) => sound && !merged)
  .map(([name, { word = name }]) => [name as keyof Channel, word] as const);

/**
 * The reverse: equal returns become the first of them, whose sends the others' become; levels of the others' faders move into
 * these. A channel that sends to several sends their sum. `to` is where the one that stays goes; needed where they go apart.
 * @example { "do": "returns.merge", "ids": ["echo", "echo2"] }
 */
export const returnsMerge = define({
  name: 'returns.merge',
  schema: yup.object({ ids: ids(), to: id() }),
  label: (session, { ids }) => {
    const bends = insertsOf(session, ids[0]).find(({ type, bypass }) => !bypass && processors[type].bends);
    const names = ids.map((one) => session.channel.get(one)?.name ?? 'return').join(', ');
    return `Merge ${names}${bends ? ` (their ${processors[bends.type].title} now hears the sum)` : ''}`;
  },
  plan: (session, { ids, to }) => {
    const found = channelsOf(session, ids);
    if (!found.ok) return found;
    const [kept, ...others] = found.value;
    if (others.length === 0) return refuse('bad-arguments', 'Select two returns or more to merge.');
    for (const other of found.value) {
      if (other.kind !== 'return') return refuse('not-a-return', `${other.name} is no return. Select returns only.`);
      const why = other === kept ? null : unequal(session, kept.id, other.id);
      if (why) return refuse('unequal', `${why}. Make them alike first.`);
      if (to === undefined && (other.outputId !== kept.outputId || other.outputPair !== kept.outputPair))
        return refuse('changes-sound', `${kept.name} and ${other.name} go to different places. Say where the one that stays goes.`);
    }
    return inSequence(session, [...others, null], (other) =>
      other ? merged(session, kept, other) : to ? planRoute(session, [kept.id], { outputId: to, outputPair: null }, []) : ok([])
    );
  }
});

const nameOf = (session: Session, id: string) => session.channel.get(id)?.name ?? 'a channel';
const audible = ({ on, levelDb }: Send) => on && levelDb > -Infinity;

function merged(session: Session, kept: Channel, other: Channel): Result<Change[]> {
  const [mine, theirs] = [levelOf(session, kept), levelOf(session, other)];
  if (mutedOf(session, kept) !== mutedOf(session, other))
    return refuse('unequal', `A VCA mutes one of ${kept.name} and ${other.name}. Make them alike first.`);
  const by = theirs === mine ? 0 : theirs - mine;
  if (Number.isNaN(by) || by === Infinity) return refuse('silent', `${kept.name} is at −∞. Raise its fader first.`);
  const wrong = keptApart(session, kept, other, by);
  if (wrong) return refuse('changes-sound', `${wrong} Make them alike first.`);
  const changes: Change[] = [];
  for (const send of rowsBy(session, 'send', 'targetId', other.id)) {
    if (send.sourceId === kept.id) continue;
    const joined = joinedSend(session, kept, { ...send, targetId: kept.id, levelDb: send.levelDb + by });
    if (!joined.ok) return joined;
    changes.push(...joined.value);
  }
  return inSequence(session, [ok(changes), null], (step) => step ?? channelsRemove.plan(session, { ids: [other.id], membersTo: kept.id }));
}

/** The send of one channel to both as one send: of what can be heard of either, tap, switch, mono and pan count. */
function joinedSend(session: Session, kept: Channel, moved: Send): Result<Change[]> {
  const key = sendId(moved.sourceId, kept.id);
  const present = session.send.get(key);
  const from = nameOf(session, moved.sourceId);
  const both = present && audible(present) && audible(moved);
  if (both && (present.tap !== moved.tap || present.mono !== moved.mono || present.pan !== moved.pan))
    return refuse('taps', `${from} sends to both in different ways. Make them alike first.`);
  const stays = present && !audible(moved);
  if (stays) return ok([]);
  const level = both ? dbOf(gainOf(present.levelDb) + gainOf(moved.levelDb)) : moved.levelDb;
  if (level > TOP_DB) return refuse('too-loud', `The send of ${from} would pass +12 dB.`);
  const fields = { ...moved, levelDb: clampDb(level) };
  if (present) return ok(update(session, 'send', key, fields));
  const loop = loopClosedBy(session, [{ from: moved.sourceId, to: kept.id, via: 'send' }], new Set());
  return loop ? loopRefusal(loop) : ok([creation('send', key, fields)]);
}

/** What else goes in or out of the one that goes, and would be heard otherwise, in words. */
function keptApart(session: Session, kept: Channel, other: Channel, by: number): string | null {
  const lane = [...session.lane.values()].find(
    ({ channelId, targetId }) => [kept.id, other.id].includes(channelId) || targetId === kept.id || targetId === other.id
  );
  if (lane) return `The ${laneName(session, lane)} has a lane of its own.`;
  const key = rowsBy(session, 'insert', 'keyId', other.id).find(({ channelId }) => channelId !== other.id);
  if (key) return `${nameOf(session, key.channelId)} listens to ${other.name} as a key.`;
  const [inside] = rowsBy(session, 'channel', 'outputId', other.id);
  if (inside && by !== 0) return `${inside.name} is routed into ${other.name}, whose fader is not that of ${kept.name}.`;
  const on = (id: string) => rowsBy(session, 'send', 'sourceId', id).filter(audible);
  const [mine, theirs] = [on(kept.id), on(other.id)];
  const alike = (a: Send, b: Send) =>
    a.targetId === b.targetId && a.levelDb === b.levelDb && a.tap === b.tap && a.mono === b.mono && a.pan === b.pan;
  const early = theirs.find(({ tap }) => tap !== 'post');
  if (early && by !== 0) return `${other.name} sends on before its fader, which is not that of ${kept.name}.`;
  const strange =
    theirs.find((send) => !mine.some((own) => alike(own, send))) ?? mine.find((send) => !theirs.some((own) => alike(own, send)));
  return strange ? `Only one of ${kept.name} and ${other.name} sends to ${nameOf(session, strange.targetId)} like that.` : null;
}

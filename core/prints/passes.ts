// What is rendered for a job: sessions derived from the one that is printed, in which the mix chain stands once for each version, all fed
// by the same stems, so that one pass gives all files. Versions that set channels apart are passes of their own.
import { chainOf } from '../routing/chain.ts';
import { edges, mixChain, type Edge } from '../routing/graph.ts';
import { lanesOf, playingLane, pointsOf } from '../lanes/points.ts';
import { mutedOf } from '../routing/level.ts';
import { MIX, newChannel, nextBorn } from '../session/create.ts';
import {
  rowId,
  sendId,
  type Channel,
  type Insert,
  type Lane,
  type Point,
  type Send,
  type Session,
  type Tap,
  type VcaMember,
  type Version
} from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';
import { holdersOf, vcasAbove } from '../session/vcas.ts';
import { insertsOf } from '../session/select.ts';
import { processors } from '../processors/index.ts';
import { newRow } from '../session/tables.ts';
import { ownPass, type PlannedFile } from './order.ts';

/** Where in a pass a file is taken. */
export type Outlet = {
  /** Its place among the files. */
  readonly file: number;
  readonly id: string;
  readonly tap: Tap;
};
export type Pass = { readonly session: Session; readonly outlets: readonly Outlet[] };

/** The dB that a written level stands for. */
export const levelAt = (written: number | '-inf' | undefined): number => (written === '-inf' ? -Infinity : (written ?? 0));

export type ChainOf = Pick<Version, 'inserts' | 'fader' | 'fades'>;
/** As the mix has its chain. */
export const AS_MIXED: ChainOf = { inserts: {}, fader: true, fades: true };
export type Draft = {
  readonly channel: Map<string, Channel>;
  readonly send: Map<string, Send>;
  readonly insert: Map<string, Insert>;
  readonly vcaMember: Map<string, VcaMember>;
  readonly lane: Map<string, Lane>;
  readonly point: Map<string, Point>;
};
/** A draft with all that a session has, to which more is added. */
const draftOf = ({ channel, send, insert, vcaMember, lane, point }: Session): Draft => ({
  channel: new Map(channel),
  send: new Map(send),
  insert: new Map(insert),
  vcaMember: new Map(vcaMember),
  lane: new Map(lane),
  point: new Map(point)
});

/** A draft with the VCAs above some channels, what is in them of these, and their lanes; and with nothing else. */
export function draftAbove(session: Session, ids: Iterable<string>): Draft {
  const draft: Draft = { channel: new Map(), send: new Map(), insert: new Map(), vcaMember: new Map(), lane: new Map(), point: new Map() };
  const vcas = new Set([...ids].flatMap((id) => vcasAbove(session, id)));
  for (const id of vcas) {
    draft.channel.set(id, session.channel.get(id)!);
    for (const held of rowsBy(session, 'vcaMember', 'channelId', id)) draft.vcaMember.set(rowId('vcaMember', held), held);
    for (const lane of lanesOf(session, id)) copyLane(session, draft, lane, AS_MIXED, '');
  }
  return draft;
}

/** The passes that give these files; the first has all that one pass can give. */
export function passesOf(session: Session, files: readonly PlannedFile[]): Pass[] {
  const together = files.flatMap((file, i) => (apartOf(session, file) ? [] : [{ file, i }]));
  const apart = files.flatMap((file, i) => (apartOf(session, file) ? [{ file, i }] : []));
  return [
    ...(together.length ? [passOf(session, together)] : []),
    ...apart.map(({ file, i }) => passOf(withApart(session, session.version.get(file.id)!), [{ file, i }]))
  ];
}

const apartOf = (session: Session, { kind, id }: PlannedFile) => kind === 'version' && ownPass(session.version.get(id)!);

/**
 * The session with a version's channels set apart: by so many dB on their effective level, which a VCA of their own adds, whatever lanes
 * do beneath it.
 */
export function withApart(session: Session, version: Version): Session {
  const channel = new Map(session.channel);
  const vcaMember = new Map(session.vcaMember);
  for (const { id, by, mute } of version.channels) {
    const row = channel.get(id);
    if (!row) continue;
    const level = levelAt(by);
    if (playingLane(session, { channelId: id, of: 'fader' })) {
      const vca = newChannel({ id: `~apart ${id}`, kind: 'vca', name: row.name, position: 0, born: row.born, faderDb: level });
      channel.set(vca.id, vca);
      vcaMember.set(rowId('vcaMember', { vcaId: vca.id, channelId: id }), { vcaId: vca.id, channelId: id });
    }
    channel.set(id, { ...row, faderDb: row.faderDb + level, mute: mute ?? row.mute });
  }
  return { ...session, channel, vcaMember };
}

function passOf(session: Session, wanted: readonly { readonly file: PlannedFile; readonly i: number }[]): Pass {
  const draft = draftOf(session);
  const chain = chainOf(session);
  const outlets = wanted.map(({ file: { kind, id, tap }, i }): Outlet => {
    if (kind === 'version') return { file: i, id: withChain(session, draft, chain, session.version.get(id)!, `v${i}~`), tap };
    if (kind === 'input') return { file: i, id: withInput(session, draft, `i${i}~`), tap };
    if (kind === 'chained') return { file: i, id: withStemChain(session, draft, chain, id, `c${i}~`), tap };
    return { file: i, id, tap };
  });
  // Where nothing of the mix itself is wanted its processors need not run.
  if (!outlets.some(({ id }) => chain.has(id)) && !wanted.some(({ file }) => file.kind === 'chained'))
    for (const [key, { channelId }] of draft.insert) if (chain.has(channelId)) draft.insert.delete(key);
  return { session: { ...session, ...draft }, outlets };
}

/** The edges that come into some channels from outside them. */
const entering = (session: Session, into: ReadonlySet<string>): Edge[] =>
  edges(session).filter(({ from, to }) => into.has(to) && !into.has(from));

/** One more way for what an edge carries, to a channel of the draft, in the same place of its sum. */
function tapped(session: Session, draft: Draft, edge: Edge, target: string, level: number): void {
  const source = session.channel.get(edge.from)!;
  if (edge.via === 'send') {
    const send = session.send.get(sendId(edge.from, edge.to))!;
    const copy = { ...send, targetId: target };
    draft.send.set(sendId(edge.from, target), copy);
    sendLanes(session, draft, edge, target);
    return;
  }
  const post = (to: string): Send => newRow('send', { sourceId: edge.from, targetId: to, tap: 'post', levelDb: level });
  if (!session.send.has(sendId(edge.from, edge.to))) {
    draft.send.set(sendId(edge.from, target), post(target));
    return;
  }
  // It goes there twice: its main output goes by way of a bus, since there is one send from a channel to another.
  const by = newChannel({
    id: `${target}<${edge.from}`,
    kind: 'bus',
    name: source.name,
    position: 0,
    born: source.born,
    width: 2,
    outputId: target
  });
  draft.channel.set(by.id, by);
  draft.send.set(sendId(edge.from, by.id), post(by.id));
}

/** A lane once more, of something else, with its points. */
function addLane(session: Session, draft: Draft, lane: Lane, as: Partial<Lane> & { readonly id: string }): void {
  draft.lane.set(as.id, { ...lane, ...as });
  for (const point of pointsOf(session, lane.id)) {
    const copy = { ...point, laneId: as.id };
    draft.point.set(rowId('point', copy), copy);
  }
}

/** The lanes of a send once more, for its copy that goes elsewhere. */
function sendLanes(session: Session, draft: Draft, { from, to }: Edge, target: string): void {
  for (const lane of lanesOf(session, from))
    if (lane.targetId === to) addLane(session, draft, lane, { id: `${target}<${lane.id}`, targetId: target });
}

/** The mix chain once more as a version has it, fed like the first; the id of its last stage. */
function withChain(session: Session, draft: Draft, chain: ReadonlySet<string>, version: Version, tag: string): string {
  copyChain(session, draft, chain, version, tag);
  for (const edge of entering(session, chain)) {
    const stem = edge.to === MIX && edge.via === 'output' && session.channel.get(edge.from)!.stem;
    tapped(session, draft, edge, tag + edge.to, stem ? levelAt(version.stems[edge.from]) : 0);
  }
  return tag + mixChain(session).at(-1)!.id;
}

/** The mix chain once more, fed by one stem alone, its keyed processors listening to what they hear in the mix; the id of its last stage. */
function withStemChain(session: Session, draft: Draft, chain: ReadonlySet<string>, stem: string, tag: string): string {
  copyChain(session, draft, chain, AS_MIXED, tag);
  const out = edges(session).find(({ from, to, via }) => from === stem && to === MIX && via === 'output');
  if (out) tapped(session, draft, out, tag + MIX, 0);
  for (const channelId of chain)
    for (const [i, insert] of insertsOf(session, channelId).entries()) {
      if (!processors[insert.type].keyed) continue;
      const row = draft.insert.get(tag + insert.id)!;
      const key =
        insert.keyId !== null
          ? { keyId: insert.keyId, keyTap: insert.keyTap }
          : i === 0
            ? { keyId: channelId, keyTap: 'input' as const }
            : { keyId: withListener(session, draft, channelId, i), keyTap: 'pre' as const };
      draft.insert.set(row.id, { ...row, ...key });
    }
  return tag + mixChain(session).at(-1)!.id;
}

/** What goes into the n-th insert of a chain's channel in the mix, as a channel of its own that nothing hears; once a draft. */
function withListener(session: Session, draft: Draft, channelId: string, n: number): string {
  const id = `k${n}~${channelId}`;
  if (draft.channel.has(id)) return id;
  const row = session.channel.get(channelId)!;
  draft.channel.set(id, { ...row, id, kind: 'bus', outputId: null, outputPair: null, mute: false, solo: false, stem: false });
  for (const insert of insertsOf(session, channelId).slice(0, n)) {
    const copy = { ...insert, id: `k${n}~${insert.id}`, channelId: id };
    draft.insert.set(copy.id, copy);
    for (const lane of rowsBy(session, 'lane', 'insertId', insert.id))
      addLane(session, draft, lane, { id: `k${n}~${lane.id}`, channelId: id, insertId: copy.id });
  }
  for (const edge of entering(session, new Set([channelId]))) tapped(session, draft, edge, id, 0);
  return id;
}

/** The chain's channels, inserts and sends among themselves, as a version has them. */
export function copyChain(session: Session, draft: Draft, chain: ReadonlySet<string>, version: ChainOf, tag: string): void {
  for (const id of chain) {
    const row = session.channel.get(id)!;
    const mix = id === MIX;
    // At 0 dB whatever stands above it, and muted as it is.
    const flat = mix && !version.fader;
    if (!flat)
      for (const vcaId of holdersOf(session, id)) {
        const held = { vcaId, channelId: tag + id };
        draft.vcaMember.set(rowId('vcaMember', held), held);
      }
    draft.channel.set(tag + id, {
      ...row,
      id: tag + id,
      // The mix's fades are at whatever is a mix bus.
      kind: mix ? (version.fades ? 'mix' : 'bus') : row.kind,
      outputId: row.outputId !== null && chain.has(row.outputId) ? tag + row.outputId : null,
      outputPair: null,
      resting: !mix && row.resting,
      faderDb: flat ? 0 : row.faderDb,
      mute: flat ? mutedOf(session, row) : row.mute
    });
    for (const lane of lanesOf(session, id)) copyLane(session, draft, lane, version, tag);
  }
  for (const insert of session.insert.values()) {
    if (!chain.has(insert.channelId)) continue;
    const { id, keyId } = insert;
    const on = version.inserts[id];
    draft.insert.set(tag + id, {
      ...insert,
      id: tag + id,
      channelId: tag + insert.channelId,
      keyId: keyId !== null && chain.has(keyId) ? tag + keyId : keyId,
      bypass: on === undefined ? insert.bypass : !on
    });
  }
  for (const send of session.send.values())
    if (chain.has(send.sourceId) && chain.has(send.targetId))
      draft.send.set(sendId(tag + send.sourceId, tag + send.targetId), {
        ...send,
        sourceId: tag + send.sourceId,
        targetId: tag + send.targetId
      });
}

/** A lane of the chain once more, unless the version sets what it is of. */
function copyLane(session: Session, draft: Draft, lane: Lane, version: ChainOf, tag: string): void {
  if (lane.channelId === MIX && !version.fader && (lane.of === 'fader' || lane.of === 'faderTrim')) return;
  if (lane.of === 'bypass' && version.inserts[lane.insertId!] !== undefined) return;
  addLane(session, draft, lane, {
    id: tag + lane.id,
    channelId: tag + lane.channelId,
    targetId: lane.targetId === null ? null : tag + lane.targetId,
    insertId: lane.insertId === null ? null : tag + lane.insertId
  });
}

/** A bus that sums what comes into the mix bus; its id. */
function withInput(session: Session, draft: Draft, tag: string): string {
  const bus = newChannel({ id: tag + MIX, kind: 'bus', name: 'Mix-bus input', position: 0, born: nextBorn(session), width: 2 });
  draft.channel.set(bus.id, bus);
  for (const edge of entering(session, new Set([MIX]))) tapped(session, draft, edge, bus.id, 0);
  return bus.id;
}

// Mute and solo: which edges are open, and what the page says of each channel. Monitoring only; prints pass `solo: false`.
import { sendId, settingsOf, type Channel, type Session } from '../session/entities.ts';
import { gainOf, type Gain } from '../units.ts';
import { edges, edgesFrom, reach, reversed, successors, type Edge } from './graph.ts';
import { starvedKeys } from './keys.ts';
import { everSent } from './overTime.ts';
import { mutedOf, mutingVca, soloedOf } from './level.ts';

/**
 * `cue`: heard by players only. `also`: heard though not asked for, since the graph leaves no other way. `dimmed`: not asked for, and quieter instead of silent.
 */
export type Heard = 'heard' | 'cue' | 'also' | 'dimmed' | 'silent' | 'muted' | 'resting' | 'key';

export type Audibility = {
  /** Whether a channel's main output is open, by id. */
  readonly outputOpen: (id: string) => boolean;
  /** Whether a send is open, apart from its own on/off. */
  readonly sendOpen: (sourceId: string, targetId: string) => boolean;
  /** What passes a channel's main output: 1 open, 0 closed, between them where solo dims. */
  readonly outputGain: (id: string) => Gain;
  readonly sendGain: (sourceId: string, targetId: string) => Gain;
  /** What the page shows for a channel, and a sentence why. */
  readonly state: (id: string) => { readonly heard: Heard; readonly why: string };
  /** Ids of inserts whose key gets no signal because of solo: opening its way would make something else heard. */
  readonly starved: ReadonlySet<string>;
};

/** Whether a channel's solo counts: cues and key tracks are never among what the outputs play. */
export const soloes = (session: Session, channel: Channel): boolean => {
  const { resting, kind } = channel;
  return !resting && kind !== 'cue' && kind !== 'key' && kind !== 'vca' && soloedOf(session, channel);
};

/** The rule of solo on a graph: who carries, who feeds, which edges are open by it. `isSource` are channels with sound of their own. */
export type SoloRule = {
  readonly feeders: ReadonlySet<string>;
  readonly carriers: ReadonlySet<string>;
  /** Channels from which the way on along carrying edges is asked for. */
  readonly asked: ReadonlySet<string>;
  readonly open: (edge: Edge) => boolean;
  /** Whether an edge carries on what is asked for: any main output, a send into a solo-safe return. */
  readonly carrying: (edge: Edge) => boolean;
};

/**
 * A = the soloed and the solo-safe sources. Feeders = A and all that reaches A. Carriers = A, what is routed into a soloed bus,
 * and all these reach along main outputs and sends into solo-safe returns. An output is open from a carrier or into a feeder; a
 * send into a feeder, from a carrier into a solo-safe return, or into a cue.
 */
export function soloRule(session: Session, edgesOfAll: readonly Edge[]): SoloRule {
  // What rests is no way: nothing passes it.
  const awake = (id: string) => !session.channel.get(id)?.resting;
  const all = edgesOfAll.filter(({ from, to }) => awake(from) && awake(to));
  const channels = [...session.channel.values()].filter(({ resting }) => !resting);
  const soloed = channels.filter((channel) => soloes(session, channel));
  const kindOf = (id: string) => session.channel.get(id)?.kind;
  const safe = new Set(channels.filter(({ kind, soloSafe }) => kind === 'return' && soloSafe).map(({ id }) => id));
  const active = new Set([...soloed, ...channels.filter(({ kind, soloSafe }) => kind === 'track' && soloSafe)].map(({ id }) => id));
  const carrying = ({ via, to }: Edge) => via === 'output' || safe.has(to);
  // What is soloed and goes nowhere opens nothing: by the bare rule it would let others be heard that nobody asked for.
  const ends = channels.filter(({ kind, outputPair }) => outputPair !== null && kind !== 'cue').map(({ id }) => id);
  const arriving = reach(ends, reversed(all.filter(carrying)));
  const buses = soloed.filter(({ kind }) => kind !== 'track').map(({ id }) => id);
  const inside = reach(buses, reversed(all.filter((edge) => edge.via === 'output')));
  // Likewise what no track reaches carries nothing.
  const fed = reach(
    channels.filter(({ kind }) => kind === 'track').map(({ id }) => id),
    successors(all)
  );
  const asked = new Set([...active, ...inside].filter((id) => fed.has(id)));
  const feeders = reach(
    [...active, ...inside].filter((id) => arriving.has(id)),
    reversed(all)
  );
  const carriers = reach(asked, successors(all.filter(carrying)));
  const open = ({ from, to, via }: Edge) =>
    via === 'output'
      ? carriers.has(from) || feeders.has(to)
      : feeders.has(to) || (carriers.has(from) && safe.has(to)) || kindOf(to) === 'cue';
  return { feeders, carriers, asked, open, carrying };
}

/** What mutes leave open, whatever is soloed. */
function muteRule(session: Session): { output: (id: string) => boolean; send: (sourceId: string, targetId: string) => boolean } {
  const { muteClosesPre, muteClosesCue } = settingsOf(session);
  const muted = new Set([...session.channel.values()].filter((channel) => mutedOf(session, channel)).map(({ id }) => id));
  return {
    output: (id) => !muted.has(id),
    send: (sourceId, targetId) => {
      if (!muted.has(sourceId)) return true;
      if (session.send.get(sendId(sourceId, targetId))?.tap === 'post') return false;
      return !(session.channel.get(targetId)?.kind === 'cue' ? muteClosesCue : muteClosesPre);
    }
  };
}

export function audibility(session: Session, options: { readonly solo: boolean } = { solo: true }): Audibility {
  const channels = session.channel;
  const soloed = options.solo ? [...channels.values()].filter((channel) => soloes(session, channel)) : [];
  const all = edges(session);
  const mutes = muteRule(session);
  const rule = soloed.length ? soloRule(session, all) : null;
  const unmuted = ({ from, to, via }: Edge) => (via === 'output' ? mutes.output(from) : mutes.send(from, to));
  const bySolo = new Set(rule ? all.filter(rule.open) : all);
  const keys = rule ? starvedKeys(session, all, bySolo) : { opened: [] as Edge[], starved: new Set<string>() };
  for (const edge of keys.opened) bySolo.add(edge);
  const { soloDimDb } = settingsOf(session);
  const dim = rule && soloDimDb !== null ? gainOf(soloDimDb) : 0;

  const openOutputs = new Set<string>();
  const openSends = new Set<string>();
  for (const { from, to, via } of bySolo)
    if (via === 'output') openOutputs.add(from);
    else openSends.add(sendId(from, to));
  // An output to the interface has no edge in the graph: it is open as its channel carries; a cue's always is.
  for (const { id, kind, outputPair } of channels.values())
    if (outputPair !== null && (!rule || kind === 'cue' || rule.carriers.has(id))) openOutputs.add(id);

  const aside = (id: string) => rule !== null && !rule.carriers.has(id) && !rule.feeders.has(id);
  /** Each way that is not asked for is dimmed once: where it comes back among what is heard. */
  const dimmed = (to: string | null): Gain => (dim === 0 ? 0 : to !== null && aside(to) ? 1 : dim);
  const outputOpen = (id: string) => mutes.output(id) && openOutputs.has(id);
  const sendOpen = (sourceId: string, targetId: string) => mutes.send(sourceId, targetId) && openSends.has(sendId(sourceId, targetId));

  let states: Map<string, { heard: Heard; why: string }> | null = null;
  return {
    outputOpen,
    sendOpen,
    outputGain: (id) => (!mutes.output(id) ? 0 : openOutputs.has(id) ? 1 : dimmed(channels.get(id)?.outputId ?? null)),
    sendGain: (sourceId, targetId) =>
      !mutes.send(sourceId, targetId) ? 0 : openSends.has(sendId(sourceId, targetId)) ? 1 : dimmed(targetId),
    state: (id) => {
      states ??= statesOf(session, all, rule, soloed, (edge) => bySolo.has(edge) && unmuted(edge), outputOpen, dim > 0);
      return states.get(id) ?? { heard: 'silent', why: '' };
    },
    starved: keys.starved
  };
}

type Said = { heard: Heard; why: string };

/** What each row says: found by walking back from the outputs along what is open. */
function statesOf(
  session: Session,
  all: readonly Edge[],
  rule: SoloRule | null,
  soloed: readonly Channel[],
  open: (edge: Edge) => boolean,
  outputOpen: (id: string) => boolean,
  dims: boolean
): Map<string, Said> {
  const sounding = ({ from, to, via }: Edge) => {
    if (via === 'output') return true;
    const send = session.send.get(sendId(from, to));
    return send !== undefined && everSent(session, send);
  };
  const list = [...session.channel.values()];
  const live = all.filter((edge) => open(edge) && sounding(edge) && !session.channel.get(edge.from)?.resting);
  const ends = (cues: boolean) =>
    list.filter(({ id, kind, outputPair, resting }) => outputPair !== null && (kind === 'cue') === cues && outputOpen(id) && !resting);
  const back = reversed(live);
  const toMain = reach(
    ends(false).map(({ id }) => id),
    back
  );
  const toCue = reach(
    ends(true).map(({ id }) => id),
    back
  );
  const extra = rule ? extras(session, live, rule, toMain) : new Set<string>();
  const names = soloed.map(({ name }) => name).join(', ');
  const soloing = `${names} ${soloed.length === 1 ? 'is' : 'are'} soloed`;
  const nearest = blockers(session, all);

  const say = (channel: Channel): Said => {
    const { id, kind, resting } = channel;
    const [mute, solo] = [mutedOf(session, channel), soloedOf(session, channel)];
    if (kind === 'vca')
      return mute
        ? { heard: 'muted', why: 'Muted: so is all that it holds' }
        : { heard: 'heard', why: solo ? 'Soloed: so is all that it holds' : '' };
    if (resting) return { heard: 'resting', why: 'Resting: it keeps its settings, costs nothing and makes no sound' };
    if (kind === 'key') return { heard: 'key', why: 'Heard only by key inputs' };
    if (mute) {
      const by = channel.mute ? '' : ` by ${mutingVca(session, id)!.name}`;
      return { heard: 'muted', why: `Muted${by}${toMain.has(id) || toCue.has(id) ? '; sends before its fader stay open' : ''}` };
    }
    if (toMain.has(id)) {
      if (!rule) return { heard: 'heard', why: '' };
      if (solo) return { heard: 'heard', why: 'Soloed' };
      if (extra.has(id)) return { heard: 'also', why: `Also heard: ${soloing}, and its way there is open to this too` };
      return { heard: 'heard', why: kind === 'track' && channel.soloSafe ? 'Heard: solo-safe' : `Heard: ${soloing}` };
    }
    if (toCue.has(id)) return { heard: 'cue', why: 'Heard in a cue only' };
    const muted = nearest(id);
    if (muted) return { heard: 'silent', why: `Silent: ${muted} is muted` };
    if (solo) return { heard: 'silent', why: 'Soloed, but it reaches no output' };
    if (rule && (rule.carriers.has(id) || rule.feeders.has(id))) return { heard: 'silent', why: 'Silent: it reaches no output' };
    if (rule && channel.outputId === null && channel.outputPair === null && !nearest.leaves(id))
      return { heard: 'silent', why: 'Silent: it goes nowhere' };
    if (rule) return { heard: dims ? 'dimmed' : 'silent', why: `${dims ? 'Dimmed' : 'Silent'}: ${soloing}` };
    return { heard: 'silent', why: nearest.leaves(id) ? 'Silent: it reaches no output' : 'Silent: it goes nowhere' };
  };
  return new Map(list.map((channel) => [channel.id, say(channel)]));
}

/**
 * Tracks with a live way to an output that was not asked for. Asked for is a way on which some channel of `asked` is followed
 * by carrying edges alone.
 */
function extras(session: Session, live: readonly Edge[], rule: SoloRule, toMain: ReadonlySet<string>): Set<string> {
  const outgoing = edgesFrom(live);
  const memo = new Map<string, boolean>();
  /** Whether from here, asked for or not so far, an output can be reached on a way that is not asked for. */
  const strays = (id: string, asked: boolean): boolean => {
    const now = asked || rule.asked.has(id);
    const key = `${id}\n${now}`;
    const known = memo.get(key);
    if (known !== undefined) return known;
    const { outputPair, kind } = session.channel.get(id)!;
    let found = outputPair !== null && kind !== 'cue' && !now && toMain.has(id);
    for (const edge of outgoing.get(id) ?? []) found ||= strays(edge.to, now && rule.carrying(edge));
    memo.set(key, found);
    return found;
  };
  const found = new Set<string>();
  for (const id of toMain) {
    // What has sound of its own is asked for on each of its ways or not; a bus is open only where something asked for passes it.
    // What is itself asked for is simply heard, whichever ways it takes.
    if (session.channel.get(id)!.kind === 'track' && !rule.asked.has(id) && strays(id, false)) found.add(id);
  }
  return found;
}

/** Finds, for a silent channel, the muted one that its ways on meet first. */
function blockers(session: Session, all: readonly Edge[]) {
  const next = successors(all);
  const find = (id: string): string | null => {
    for (const there of reach(next.get(id) ?? [], next)) {
      const channel = session.channel.get(there)!;
      if (mutedOf(session, channel)) return channel.name;
    }
    return null;
  };
  return Object.assign(find, { leaves: (id: string) => (next.get(id)?.length ?? 0) > 0 });
}

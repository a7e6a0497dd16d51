// The whole graph's oracle: float64, channel after channel, whole length at once, values that stand or follow lanes, straight from the rules.
// It is also the plain TypeScript beside which the bench measures the engine.
import { topological } from '../../core/routing/graph.ts';
import { processors, valuesOf } from '../../core/processors/index.ts';
import type { Oracle } from '../../core/processors/oracle.ts';
import { settingsOf, type Channel, type Insert, type Session, type Tap } from '../../core/session/entities.ts';
import { insertsOf } from '../../core/session/select.ts';
import { laneFactor, stageGains, still, through, type Factor } from './lanes.ts';

type Pair = [Float64Array, Float64Array];
type Late = { readonly pair: Pair; readonly late: number };
const gain = (db: number) => (db === -Infinity ? 0 : 10 ** (db / 20));

/** Left and right factors: equal power for a channel that begins mono, balance for stereo. */
function panGains(pan: number, width: 1 | 2): [number, number] {
  const p = pan / 100;
  if (width === 2) return [Math.min(1, 1 - p), Math.min(1, 1 + p)];
  return [Math.cos(((p + 1) * Math.PI) / 4), Math.sin(((p + 1) * Math.PI) / 4)];
}

/** A channel's place: pan, or for stereo its width by mid and side, then two pins as mono signals, or a balance. */
function placed([l, r]: Pair, { width, pan, panRight, spread }: Channel, sides: 1 | 2): Pair {
  if (sides === 1 || (panRight === null && spread === 100)) return scaled([l, r], ...panGains(pan, width));
  const mid = l.map((x, i) => (x + r[i]) / 2);
  const side = l.map((x, i) => (((x - r[i]) / 2) * spread) / 100);
  const wide: Pair = [mid.map((x, i) => x + side[i]), mid.map((x, i) => x - side[i])];
  if (panRight === null) return scaled(wide, ...panGains(pan, width));
  const [a, b] = [panGains(pan, 1), panGains(panRight, 1)];
  return [wide[0].map((x, i) => x * a[0] + wide[1][i] * b[0]), wide[0].map((x, i) => x * a[1] + wide[1][i] * b[1])];
}

const later = (side: Float64Array, frames: number): Float64Array =>
  frames === 0 ? side : Float64Array.from(side, (_, i) => side[i - frames] ?? 0);
const delayed = ({ pair, late }: Late, to: number): Pair => [later(pair[0], to - late), later(pair[1], to - late)];
const shaped = ([l, r]: Pair, a: Float64Array, b: Float64Array): Pair => [l.map((x, i) => x * a[i]), r.map((x, i) => x * b[i])];
const scaled = ([l, r]: Pair, a: number, b: number): Pair => [l.map((x) => x * a), r.map((x) => x * b)];
const folded = ([l, r]: Pair): Pair => {
  const mono = l.map((x, i) => (x + r[i]) / 2);
  return [mono, mono];
};

const oracles = import.meta.glob<{ oracle: Oracle }>('../../core/processors/*/oracle.ts', { eager: true });
const oracleOf = (type: string): Oracle => oracles[`../../core/processors/${type}/oracle.ts`].oracle;

function processed(insert: Insert, pair: Pair, key: Pair | null, width: 1 | 2, rate: number, bpm: number): Pair {
  const values = valuesOf(insert.type, insert.params);
  const one = width === 1 && !processors[insert.type].stereo;
  const sides = one ? [pair[0]] : pair;
  const both = (list: readonly Float64Array[]): Pair => [list[0], list.at(-1)!];
  if (insert.bypass && insert.type !== 'limiter') return pair;
  const made = both(oracleOf(insert.type)(sides, { key: key ?? sides, values, rate, bpm }));
  return one ? folded(made) : made;
}

/** What reaches interface outputs 1–2; `recordings` by channel id. */
export function graphOracle(
  session: Session,
  recordings: ReadonlyMap<string, readonly Float32Array[]>,
  frames: number,
  rate: number
): Pair {
  const { bpm } = settingsOf(session);
  const incoming = new Map<string, Late[]>();
  const feed = (target: string, signal: Late) => incoming.set(target, [...(incoming.get(target) ?? []), signal]);
  const summed = (list: readonly Late[]): Late => {
    const late = Math.max(0, ...list.map((signal) => signal.late));
    const pair: Pair = [new Float64Array(frames), new Float64Array(frames)];
    for (const signal of list) delayed(signal, late).forEach((side, s) => side.forEach((x, i) => (pair[s][i] += x)));
    return { pair, late };
  };
  const taps = new Map<string, Record<Tap, Late>>();
  for (const id of topological(session)) {
    const channel = session.channel.get(id)!;
    const own = recordings.get(id)?.map((samples) => Float64Array.from({ length: frames }, (_, i) => samples[i] ?? 0));
    let at: Late = own ? { pair: [own[0], own.at(-1)!], late: 0 } : summed(incoming.get(id) ?? []);
    const trim = gain(channel.trimDb) * (channel.polarity ? -1 : 1);
    const input: Late = { pair: scaled(channel.width === 1 ? folded(at.pair) : at.pair, trim, trim), late: at.late };
    at = input;
    let sides = channel.width;
    for (const insert of insertsOf(session, id)) {
      const key = insert.keyId === null ? null : insert.keyId === id ? input : taps.get(insert.keyId)![insert.keyTap];
      const late = Math.max(at.late, key?.late ?? 0);
      const pair = processed(insert, delayed(at, late), key && delayed(key, late), sides, rate, bpm);
      if (processors[insert.type].stereo) sides = 2;
      at = {
        pair,
        late: late + processors[insert.type].latency(rate, insert.params)
      };
    }
    const lane = (of: string, targetId?: string) => laneFactor(session, { of, channelId: id, targetId });
    const some = (...factors: (Factor | null)[]) => factors.filter((factor) => factor !== null);
    const fader = some(
      still(channel.mute ? 0 : 1),
      lane('fader') ?? still(gain(channel.faderDb)),
      ...(['faderTrim', 'mute'] as const).map((of) => lane(of))
    );
    /** Through factors and a pin, whose lane, if it plays, it has part in. */
    const pinned = ({ pair, late }: Late, factors: readonly Factor[], pin: number, width: 1 | 2, moves: boolean): Pair => {
      const own = moves ? lane('pan') : null;
      const [left, right] = [0, 1].map((side) => {
        const place = own ? through(own, (at) => panGains(at, width)[side]) : still(panGains(pin, width)[side]);
        return stageGains([...factors, place], frames, late);
      });
      return shaped(pair, left, right);
    };
    /** Through a matrix of pins and width, any of which a lane may move: what becomes of a one on either side, frame by frame. */
    const crossed = ({ pair: [l, r], late }: Late): Pair => {
      const moves = (['pan', 'panRight', 'spread'] as const).map((of) => lane(of));
      const nodes = moves.flatMap((factor) => factor?.nodes ?? []);
      const at = (frame: number): Channel => {
        const [pan, panRight, spread] = moves.map((factor) => factor?.at(frame));
        return {
          ...channel,
          pan: pan ?? channel.pan,
          panRight: channel.panRight === null ? null : (panRight ?? channel.panRight),
          spread: spread ?? channel.spread
        };
      };
      const cell = (from: 0 | 1, to: 0 | 1) => {
        const one: Pair = [Float64Array.of(from === 0 ? 1 : 0), Float64Array.of(from === 1 ? 1 : 0)];
        return stageGains([{ at: (frame) => placed(one, at(frame), 2)[to][0], nodes }], frames, late);
      };
      const [ll, rl, lr, rr] = [cell(0, 0), cell(1, 0), cell(0, 1), cell(1, 1)];
      return [l.map((x, i) => x * ll[i] + r[i] * rl[i]), l.map((x, i) => x * lr[i] + r[i] * rr[i])];
    };
    const plain = sides === 1 || (channel.panRight === null && channel.spread === 100 && !lane('spread'));
    const faded = stageGains(fader, frames, at.late);
    const postPair = plain ? pinned(at, fader, channel.pan, channel.width, true) : shaped(crossed(at), faded, faded);
    const post: Late = { pair: postPair, late: at.late };
    taps.set(id, { input, pre: at, post });
    if (channel.outputId) feed(channel.outputId, post);
    else if (channel.outputPair === 0) feed('out', post);
    for (const send of session.send.values()) {
      if (send.sourceId !== id) continue;
      // What is muted or off is silent, and others wait for it all the same: a switch must not move them in time.
      const target = send.targetId;
      const on = lane('sendOn', target) ?? still(Number(send.on));
      const closes = send.tap === 'post' ? null : lane('mute');
      const level = some(
        ...[on, still(Number(!channel.mute)), lane('sendLevel', target) ?? still(gain(send.levelDb)), lane('sendTrim', target), closes]
      );
      const source = taps.get(id)![send.tap];
      // Taken before the fader, all that it does is in the send's own gain.
      const early =
        send.tap === 'post' && ((send.pan !== null && !(send.mono && channel.width === 2)) || (send.mono && channel.width === 1));
      const from = early ? at : source;
      const factors = early ? [...level, ...fader] : level;
      const sent = { pair: send.mono ? folded(from.pair) : from.pair, late: from.late };
      const all = stageGains(factors, frames, sent.late);
      const pair = send.mono
        ? pinned(sent, factors, send.pan ?? 0, 2, false)
        : send.pan !== null
          ? pinned(sent, factors, send.pan, channel.width, false)
          : send.tap === 'post'
            ? shaped(sent.pair, all, all)
            : plain
              ? pinned(sent, factors, channel.pan, channel.width, true)
              : shaped(crossed(sent), all, all);
      feed(target, { pair, late: sent.late });
    }
  }
  return summed(incoming.get('out') ?? []).pair;
}

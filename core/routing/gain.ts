// Path gain: what a signal is multiplied by on its paths through the graph. A stage is a signed 2 × 2 matrix, stages
// multiply, parallel paths add. Counted are trims, faders, pans, sends and inserts that are gains; others are taken as unity.
import { processors, valuesOf } from '../processors/index.ts';
import type { Matrix } from '../processors/processor.ts';
import { sendId, settingsOf, type Channel, type PanLaw, type Session, type Tap } from '../session/entities.ts';
import { insertsOf } from '../session/select.ts';
import { gainOf, type Db, dbOf } from '../units.ts';
import { isCrossed, lawOf, placement } from './placement.ts';
import { levelOf, mutedOf } from './level.ts';
import { widthBehind, widthOf } from './width.ts';
import { downstream, reach, reversed, type Edge } from './graph.ts';

export type { Matrix };

export const UNITY: Matrix = [1, 0, 0, 1];
export const NOTHING: Matrix = [0, 0, 0, 0];
const FOLD: Matrix = [0.5, 0.5, 0.5, 0.5];

/** First `a`, then `b`. */
export const chained = (a: Matrix, b: Matrix): Matrix => [
  b[0] * a[0] + b[1] * a[2],
  b[0] * a[1] + b[1] * a[3],
  b[2] * a[0] + b[3] * a[2],
  b[2] * a[1] + b[3] * a[3]
];
export const plus = (a: Matrix, b: Matrix): Matrix => [a[0] + b[0], a[1] + b[1], a[2] + b[2], a[3] + b[3]];
const scale = (left: number, right = left): Matrix => [left, 0, 0, right];

/** Gain of the left side at −1 … 1 under a law of `centre` dB at the middle; see the kernel's `panLeft`. */
export function leftGain(position: number, centre: PanLaw): number {
  if (centre === 0) return Math.min(1, 1 - position);
  if (position >= 1) return 0;
  const power = Math.max(0, Math.cos(((position + 1) * Math.PI) / 4));
  const linear = (1 - position) / 2;
  if (centre === -6) return linear;
  return centre === -4.5 ? Math.sqrt(power * linear) : power;
}

const panned = (pan: number, centre: PanLaw): Matrix => scale(leftGain(pan / 100, centre), leftGain(-pan / 100, centre));

/** From a channel's input to each of its taps. */
export function taps(session: Session, channel: Channel): Record<Tap, Matrix> & { readonly faded: Matrix } {
  const trim = gainOf(channel.trimDb) * (channel.polarity ? -1 : 1);
  const input = chained(channel.width === 1 ? FOLD : UNITY, scale(trim));
  let pre = input;
  let { width } = channel;
  for (const insert of insertsOf(session, channel.id)) {
    width = widthBehind(width, [insert]);
    const gains = insert.bypass ? undefined : processors[insert.type].gains?.(valuesOf(insert.type, insert.params), width);
    if (!gains) continue;
    const own: Matrix = width === 1 ? scale(gains.matrix[0]) : gains.matrix;
    pre = chained(chained(pre, own), scale(gainOf(gains.level)));
  }
  const faded = chained(pre, scale(mutedOf(session, channel) ? 0 : gainOf(levelOf(session, channel))));
  return { input, pre, faded, post: chained(faded, placedBy(session, channel)) };
}

/** A channel's own pan, pins and width. */
const placedBy = (session: Session, channel: Channel): Matrix =>
  isCrossed(channel, widthOf(session, channel))
    ? placement(channel, settingsOf(session).panLaw, leftGain)
    : panned(channel.pan, centreOf(session, channel));

const centreOf = (session: Session, channel: Channel): PanLaw => lawOf(channel, settingsOf(session).panLaw);

/** From the input of an edge's source to what arrives at its target. */
export function edgeMatrix(session: Session, { from, to, via }: Edge): Matrix {
  const channel = session.channel.get(from)!;
  const stages = taps(session, channel);
  if (via === 'output') return stages.post;
  const send = session.send.get(sendId(from, to))!;
  const { muteClosesPre, muteClosesCue } = settingsOf(session);
  const closes = session.channel.get(to)?.kind === 'cue' ? muteClosesCue : muteClosesPre;
  const closed = mutedOf(session, channel) && (send.tap === 'post' || closes);
  if (!send.on || closed) return NOTHING;
  const level = scale(gainOf(send.levelDb));
  const beforePan = send.tap === 'post' ? stages.faded : stages[send.tap];
  if (send.mono) {
    const mono = chained(channel.width === 2 ? stages[send.tap] : beforePan, FOLD);
    return chained(chained(mono, panned(send.pan ?? 0, 0)), level);
  }
  const placed = send.pan === null ? placedBy(session, channel) : panned(send.pan, centreOf(session, channel));
  return chained(chained(beforePan, placed), level);
}

/** Totals from the input of `from` to the input of every channel it reaches, itself included (unity); `each` may change a stage’s matrix. */
export function gainsFrom(session: Session, from: string, each = (matrix: Matrix): Matrix => matrix): Map<string, Matrix> {
  const totals = new Map<string, Matrix>([[from, UNITY]]);
  const { order, outgoing } = downstream(session, from);
  for (const id of order) {
    const here = totals.get(id)!;
    for (const edge of outgoing.get(id) ?? [])
      totals.set(edge.to, plus(totals.get(edge.to) ?? NOTHING, chained(here, each(edgeMatrix(session, edge)))));
  }
  return totals;
}

/** From the input of `from` to the output of `to` after fader and pan, all paths together; null where there is none. */
export function gainBetween(session: Session, from: string, to: string): Matrix | null {
  const arriving = gainsFrom(session, from).get(to);
  return arriving ? chained(arriving, taps(session, session.channel.get(to)!).post) : null;
}

/** Levels of a matrix for a signal on both sides alike: left, right, and power beside one side of the input. */
export const levelsOf = ([ll, rl, lr, rr]: Matrix): { readonly left: Db; readonly right: Db; readonly power: Db } => {
  const [left, right] = [Math.abs(ll + rl), Math.abs(lr + rr)];
  return { left: dbOf(left), right: dbOf(right), power: dbOf(Math.sqrt((left * left + right * right) / 2)) };
};

export type Path = { readonly stations: readonly string[]; readonly edges: readonly Edge[]; readonly gain: Matrix };

/** Paths from the input of `from` to the output of `to`, loudest first, at most `limit`; totals come from `gainBetween`. */
export function paths(session: Session, from: string, to: string, limit: number): Path[] {
  const { order, outgoing } = downstream(session, from);
  if (!outgoing.has(to)) return [];
  const leading = reach([to], reversed([...outgoing.values()].flat()));
  const last = taps(session, session.channel.get(to)!).post;
  const matrices = new Map<Edge, Matrix>();
  const matrixOf = (edge: Edge) => {
    const known = matrices.get(edge);
    if (known) return known;
    const made = edgeMatrix(session, edge);
    matrices.set(edge, made);
    return made;
  };
  // The most that any path from here to the end can make of a signal: paths are at most 2 to the power of the returns, and only the
  // loudest are wanted.
  const most = new Map<string, number>([[to, norm(last)]]);
  for (const id of order.reverse()) {
    if (id === to || !leading.has(id)) continue;
    const onward = (outgoing.get(id) ?? []).filter((edge) => leading.has(edge.to));
    most.set(id, Math.max(0, ...onward.map((edge) => norm(matrixOf(edge)) * (most.get(edge.to) ?? 0))));
  }
  type Open = Path & { readonly bound: number; readonly done: boolean };
  const open: Open[] = [{ stations: [from], edges: [], gain: UNITY, bound: most.get(from) ?? 0, done: false }];
  const found: Path[] = [];
  for (let looked = 0; open.length && found.length < limit && looked < MOST_LOOKED; looked++) {
    const { stations, edges: taken, gain, done } = pop(open);
    const here = stations.at(-1)!;
    if (done) found.push({ stations, edges: taken, gain });
    else if (here === to) {
      const whole = chained(gain, last);
      push(open, { stations, edges: taken, gain: whole, bound: norm(whole), done: true });
    } else
      for (const edge of outgoing.get(here) ?? []) {
        if (!leading.has(edge.to)) continue;
        const next = chained(gain, matrixOf(edge));
        push(open, {
          stations: [...stations, edge.to],
          edges: [...taken, edge],
          gain: next,
          bound: norm(next) * (most.get(edge.to) ?? 0),
          done: false
        });
      }
  }
  return found;
}

/** Frobenius norm: of a product never more than the product of the norms. */
const norm = (matrix: Matrix): number => Math.sqrt(matrix.reduce((sum, x) => sum + x * x, 0));

/** Beginnings of paths looked at before the search gives up. */
const MOST_LOOKED = 100_000;

/** A binary heap, the greatest bound first; of equals the one that is further on. */
type Bounded = { readonly bound: number; readonly stations: readonly string[] };
const before = (a: Bounded, b: Bounded) => a.bound > b.bound || (a.bound === b.bound && a.stations.length > b.stations.length);
function push<T extends Bounded>(heap: T[], item: T): void {
  heap.push(item);
  for (let at = heap.length - 1; at > 0;) {
    const up = (at - 1) >> 1;
    if (!before(heap[at], heap[up])) return;
    [heap[at], heap[up]] = [heap[up], heap[at]];
    at = up;
  }
}
function pop<T extends Bounded>(heap: T[]): T {
  const top = heap[0];
  const end = heap.pop()!;
  if (heap.length === 0) return top;
  heap[0] = end;
  for (let at = 0; ;) {
    let first = at;
    for (const down of [2 * at + 1, 2 * at + 2]) if (down < heap.length && before(heap[down], heap[first])) first = down;
    if (first === at) return top;
    [heap[at], heap[first]] = [heap[first], heap[at]];
    at = first;
  }
}

/** The most that all paths together can make, added up without regard to sign: propagated, however many they are. */
export function mostBetween(session: Session, from: string, to: string): Matrix {
  const positive = (matrix: Matrix) => matrix.map(Math.abs) as unknown as Matrix;
  const arriving = gainsFrom(session, from, positive).get(to);
  return arriving ? chained(arriving, positive(taps(session, session.channel.get(to)!).post)) : NOTHING;
}

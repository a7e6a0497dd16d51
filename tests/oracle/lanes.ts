// The lanes' oracle: gains frame by frame straight from the rules, with no cursor, no kernel and no ramp of its own. What is multiplied at one
// stage is worked out together at points and multiples of 64 frames, and is linear between.
import type { Session, Point } from '../../core/session/entities.ts';

type Named = { readonly of: string; readonly channelId: string; readonly targetId?: string };
/** A factor of a stage: what it is at a frame of the timeline, and where it bends. */
export type Factor = { readonly at: (frame: number) => number; readonly nodes: readonly number[] };

const amplitude = (db: number) => (db === -Infinity ? 0 : 10 ** (db / 20));
export const still = (value: number): Factor => ({ at: () => value, nodes: [] });

/** A lane's values as they come out: of levels amplitudes, of switches what lets through. */
function factorOf(points: readonly Point[], of: string): Factor {
  const level = /fader|send(Level|Trim)/i.test(of);
  const out = (value: number) => (level ? amplitude(value) : of === 'mute' ? 1 - value : value);
  const main = (i: number, frame: number): number => {
    const [a, b] = [points[i], points[i + 1]];
    if (!b || a.shape === 'hold' || frame <= a.at) return out(a.value);
    const u = (frame - a.at) / (b.at - a.at);
    const share = a.shape === 'eased' ? 3 * u ** 2 - 2 * u ** 3 : u;
    if (level && a.value > -Infinity && b.value > -Infinity) return amplitude(a.value + share * (b.value - a.value));
    return out(a.value) + share * (out(b.value) - out(a.value));
  };
  /** Where the step at a point has been gone over, or the point itself where there is none. */
  const gone = points.map((point, i) => {
    const before = points[i - 1];
    return before?.shape === 'hold' && before.value !== point.value ? Math.min(point.at + 64, points[i + 1]?.at ?? Infinity) : point.at;
  });
  return {
    nodes: [...points.map(({ at }) => at), ...gone],
    at: (frame) => {
      const i = points.findLastIndex((point) => point.at <= frame);
      if (i < 0) return out(points[0].value);
      if (frame >= gone[i]) return main(i, frame);
      const from = out(points[i - 1].value);
      const next = points[i + 1];
      const to = next && gone[i] === next.at && points[i].shape !== 'hold' ? out(next.value) : main(i, gone[i]);
      return from + ((to - from) * (frame - points[i].at)) / (gone[i] - points[i].at);
    }
  };
}

/** What a lane makes of something, or null where none plays. */
export function laneFactor(session: Session, { of, channelId, targetId }: Named): Factor | null {
  const lane = [...session.lane.values()].find(
    (each) => each.plays && each.of === of && each.channelId === channelId && (each.targetId ?? undefined) === targetId
  );
  if (!lane) return null;
  const points = [...session.point.values()].filter(({ laneId }) => laneId === lane.id).sort((a, b) => a.at - b.at);
  return points.length ? factorOf(points, of) : null;
}

/** A factor through a function: a pin's place as the gain of a side. */
export const through = ({ at, nodes }: Factor, of: (value: number) => number): Factor => ({ at: (frame) => of(at(frame)), nodes });

/** Gains of a stage that is so late, a frame each, where rendering began at the timeline's first. */
export function stageGains(factors: readonly Factor[], frames: number, late: number): Float64Array {
  const value = (frame: number) => factors.reduce((product, { at }) => product * at(frame), 1);
  const nodes = new Set(factors.flatMap((factor) => factor.nodes));
  const first = Math.floor(-late / 64) * 64;
  for (let node = first; node <= frames + 64; node += 64) nodes.add(node);
  const sorted = [...nodes].filter((node) => node >= first && Number.isFinite(node)).sort((a, b) => a - b);
  const gains = new Float64Array(frames);
  let k = 0;
  for (let i = 0; i < frames; i++) {
    const frame = i - late;
    while (sorted[k + 1] <= frame) k++;
    const [a, b] = [value(sorted[k]), value(sorted[k + 1])];
    gains[i] = a + ((b - a) * (frame - sorted[k])) / (sorted[k + 1] - sorted[k]);
  }
  return gains;
}

// The whole graph's oracle: float64, channel after channel, whole length at once, static values, straight from the rules.
import { topological } from '../../core/routing/graph.ts';
import { valuesOf } from '../../core/dsp/params.ts';
import type { Channel, Session } from '../../core/session/entities.ts';
import { insertsOf } from '../../core/session/select.ts';
import { eqOracle } from './eq.ts';
import { reverbOracle } from './reverb.ts';

type Pair = [Float64Array, Float64Array];
const gain = (db: number) => (db === -Infinity ? 0 : 10 ** (db / 20));

/** Left and right factors: equal power for mono, balance for stereo. */
function panGains({ pan, width }: Channel): [number, number] {
  const p = pan / 100;
  if (width === 2) return [Math.min(1, 1 - p), Math.min(1, 1 + p)];
  return [Math.cos(((p + 1) * Math.PI) / 4), Math.sin(((p + 1) * Math.PI) / 4)];
}

/** What reaches interface outputs 1–2; `recordings` by channel id. */
export function graphOracle(
  session: Session,
  recordings: ReadonlyMap<string, readonly Float32Array[]>,
  frames: number,
  rate: number
): Pair {
  const silence = () => new Float64Array(frames);
  const add = (to: Pair, from: Pair, [l, r]: readonly [number, number]) =>
    to.forEach((side, s) => side.forEach((_, i) => (side[i] += from[s][i] * [l, r][s])));
  const inputs = new Map<string, Pair>();
  const out: Pair = [silence(), silence()];
  for (const id of topological(session)) {
    const channel = session.channel.get(id)!;
    const own = recordings.get(id)?.map((samples) => Float64Array.from({ length: frames }, (_, i) => samples[i] ?? 0));
    let pre: Pair = own ? [own[0], own.at(-1)!] : (inputs.get(id) ?? [silence(), silence()]);
    for (const insert of insertsOf(session, id)) {
      const values = valuesOf(insert.type, insert.params);
      if (insert.bypass) continue;
      pre = insert.type === 'eq' ? [eqOracle(pre[0], values, rate), eqOracle(pre[1], values, rate)] : reverbOracle(...pre, values, rate);
    }
    const pan = panGains(channel);
    const fader = channel.mute ? 0 : gain(channel.faderDb);
    const post = pre.map((side, s) => side.map((x) => x * fader * pan[s])) as Pair;
    const into = (target: string) => inputs.get(target) ?? inputs.set(target, [silence(), silence()]).get(target)!;
    if (channel.outputId) add(into(channel.outputId), post, [1, 1]);
    else if (channel.outputPair === 0) add(out, post, [1, 1]);
    for (const send of session.send.values()) {
      if (send.sourceId !== id || !send.on || (channel.mute && send.tap === 'post')) continue;
      const level = gain(send.levelDb);
      add(into(send.targetId), send.tap === 'post' ? post : pre, send.tap === 'post' ? [level, level] : [level * pan[0], level * pan[1]]);
    }
  }
  return out;
}

// Keys under solo: what leads to the source of a heard processor's key opens too, unless something else would be heard by it.
import type { Session } from '../session/entities.ts';
import { reach, reversed, type Edge } from './graph.ts';

/** Edges opened for the sake of keys, and the inserts whose keys stay without signal. `open` are the edges that solo opens. */
export function starvedKeys(session: Session, all: readonly Edge[], open: ReadonlySet<Edge>): { opened: Edge[]; starved: Set<string> } {
  const keyed = [...session.insert.values()].filter(
    ({ keyId, channelId, bypass }) => keyId !== null && keyId !== channelId && !bypass && !session.channel.get(channelId)?.resting
  );
  const opened = new Set<Edge>();
  const starved = new Set<string>();
  const outputs = [...session.channel.values()].filter(({ outputPair }) => outputPair !== null);
  const ids = (list: typeof outputs) => list.map(({ id }) => id);
  /** A player may hear more than is soloed: what a key opens is judged by the other outputs. */
  const mains = ids(outputs.filter(({ kind }) => kind !== 'cue'));
  const whole = reversed(all);
  /** Channels with an open way to an output, and those a working key listens to: their processors are at work. */
  const working = reach(ids(outputs), reversed([...open]));
  for (const listening = new Set(working), queue = [...keyed]; queue.length;) {
    const at = queue.findIndex(({ channelId }) => listening.has(channelId));
    if (at === -1) break;
    const [{ id, keyId }] = queue.splice(at, 1);
    const leading = reach([keyId!], whole);
    const wanted = all.filter((edge) => leading.has(edge.to) && !open.has(edge) && !opened.has(edge));
    // With these open, whatever they lead into must not lead on to an output.
    const heard = reach(mains, reversed([...open, ...opened, ...wanted]));
    if (wanted.some(({ to }) => heard.has(to))) starved.add(id);
    else {
      for (const edge of wanted) opened.add(edge);
      for (const there of leading) listening.add(there);
    }
  }
  return { opened: [...opened], starved };
}

// The oracle of solo: all ways written out, those asked for marked, and the smallest set of open edges that covers them.
// Knows nothing of the rule: it walks ways one by one, which only small graphs allow.
import { MIX, newSession, newChannel, newSend } from '../../core/session/create.ts';
import { sendId, type Channel, type Session } from '../../core/session/entities.ts';

/** A way as its edges, each "from>to" for a send, "from:to" for a main output; it ends in an interface output, "from:". */
type Way = readonly string[];

export type Verdict = { readonly open: ReadonlySet<string>; readonly heard: ReadonlySet<string>; readonly also: ReadonlySet<string> };

/** A random session of at most eight channels without loops, some of them soloed. */
export function randomSession(next: () => number): Session {
  const session = newSession({ name: 'Random' });
  const pick = (below: number) => Math.floor(next() * below);
  const tracks = 1 + pick(3);
  const others = 1 + pick(4);
  const rows: Channel[] = [];
  for (let i = 0; i < tracks + others; i++) {
    const kind = i < tracks ? 'track' : (['bus', 'return', 'return', 'bus', 'cue'] as const)[pick(5)];
    const base = newChannel({ id: `c${i}`, kind, name: `C${i}`, position: i + 1, born: i + 1, width: 2 });
    const soloSafe = kind === 'return' ? next() < 0.7 : kind === 'track' && next() < 0.15;
    const resting = next() < 0.07;
    rows.push({ ...base, solo: kind !== 'cue' && next() < 0.3, soloSafe, resting, outputPair: kind === 'cue' ? 1 : null });
  }
  // Only forward, so that nothing loops; returns take outputs as well as buses do.
  rows.forEach((row, i) => {
    const into = rows.slice(Math.max(i + 1, tracks)).filter(({ kind }) => kind !== 'cue');
    const outputId = row.kind === 'cue' ? null : next() < 0.08 ? null : into.length && next() < 0.6 ? into[pick(into.length)].id : MIX;
    session.channel.set(row.id, { ...row, outputId });
    if (row.kind === 'cue') return;
    for (const target of rows.slice(Math.max(i + 1, tracks)))
      if (target.kind !== 'track' && next() < 0.3) session.send.set(sendId(row.id, target.id), { ...newSend(row.id, target), levelDb: 0 });
  });
  return session;
}

const nameOf = (from: string, to: string | null, send: boolean) => `${from}${send ? '>' : ':'}${to ?? ''}`;

function ways(session: Session): { source: string; stations: string[]; way: Way; cue: boolean }[] {
  const found: ReturnType<typeof ways> = [];
  const walk = (source: string, id: string, stations: string[], way: Way) => {
    const channel = session.channel.get(id)!;
    // What rests is no way.
    if (channel.resting) return;
    if (channel.outputPair !== null) found.push({ source, stations, way: [...way, nameOf(id, null, false)], cue: channel.kind === 'cue' });
    if (channel.outputId !== null)
      walk(source, channel.outputId, [...stations, channel.outputId], [...way, nameOf(id, channel.outputId, false)]);
    for (const { sourceId, targetId } of session.send.values())
      if (sourceId === id) walk(source, targetId, [...stations, targetId], [...way, nameOf(id, targetId, true)]);
  };
  for (const { id, kind } of session.channel.values()) if (kind === 'track') walk(id, id, [id], []);
  return found;
}

/** Whether solo asks for a way: from some station on that is soloed, safe, or in a soloed bus, it goes on by outputs and safe returns. */
function askedFor(session: Session, stations: readonly string[], way: Way): boolean {
  return stations.some((id, at) => {
    const channel = session.channel.get(id)!;
    const within = (inner: string): boolean => {
      const { kind, solo, outputId, resting } = session.channel.get(inner)!;
      return !resting && ((solo && (inner === id || kind !== 'track')) || (outputId !== null && within(outputId)));
    };
    const begins = (channel.kind === 'track' && channel.soloSafe) || within(id);
    return (
      begins &&
      way.slice(at).every((edge) => {
        const [, to] = edge.split('>');
        const target = to && session.channel.get(to);
        return !target || (target.kind === 'return' && target.soloSafe);
      })
    );
  });
}

/** Which edges have to be open, and which tracks are heard then, asked for or not. Cues are left aside: they stay open. */
export function verdict(session: Session): Verdict {
  const all = ways(session).filter(({ cue }) => !cue);
  const wanted = all.filter(({ stations, way }) => askedFor(session, stations, way));
  const open = new Set(wanted.flatMap(({ way }) => way));
  const passing = all.filter(({ way }) => way.every((edge) => open.has(edge)));
  const heard = new Set(passing.map(({ source }) => source));
  // A source that is soloed, safe or inside a soloed bus is asked for itself: it is simply heard, whichever ways it takes.
  const itself = ({ source }: { source: string }) => askedFor(session, [source], []);
  const also = new Set(passing.filter((entry) => !wanted.includes(entry) && !itself(entry)).map(({ source }) => source));
  return { open, heard, also };
}

/** Ways of a session, not into cues, on which every edge is open. */
export const openWays = (session: Session, open: (from: string, to: string | null, send: boolean) => boolean): string[] =>
  ways(session)
    .filter(({ cue, way }) => {
      if (cue) return false;
      return way.every((edge) => {
        const send = edge.includes('>');
        const [from, to] = edge.split(send ? '>' : ':');
        return open(from, to || null, send);
      });
    })
    .map(({ way }) => way.join(' '));

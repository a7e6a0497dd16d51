// Commands in a session of 500 channels × 24 sends: planning and committing one fader move, beside copying the map of sends
// once, which is what an immutable store would pay; a VCA over all of it, and a linked move of a hundred. npm run bench -- commands [--json]
import type { Command } from '../core/commands/index.ts';
import { plan } from '../core/commands/plan.ts';
import * as facts from '../core/routing/facts.ts';
import { known } from '../core/session/facts.ts';
import { soundness } from '../core/stems/soundness.ts';
import { rowsWoken, woken } from '../core/session/woken.ts';
import { commit } from '../core/session/changes.ts';
import { newSession } from '../core/session/create.ts';
import { carryOut, many, tracks } from './desk.ts';

const session = newSession({ name: 'Bench', rate: 48000 });
const ids = many(476, 't');
const returns = many(24, 'r');
carryOut(session, tracks(ids));
for (const id of returns) carryOut(session, { do: 'returns.add', id, name: id, effect: 'none' });
for (const target of returns) carryOut(session, { do: 'sends.set', sends: ids.map((source) => ({ source, target, level: -12 })) });

const microseconds = (times: number, work: (i: number) => void): number => {
  for (let i = 0; i < times / 10; i++) work(i);
  const began = process.hrtime.bigint();
  for (let i = 0; i < times; i++) work(i);
  return Number(process.hrtime.bigint() - began) / times / 1000;
};

const planned = Array.from({ length: 1000 }, (_, i) => {
  const result = plan(session, { do: 'faders.set', levels: [{ id: ids[i % ids.length], level: -1 - (i % 30) }] });
  if (!result.ok) throw new Error(result.error.message);
  return result.value.changes;
});
const committing = microseconds(100_000, (i) => void commit(session, planned[i % planned.length]));
const planning = microseconds(
  20_000,
  (i) => void plan(session, { do: 'faders.set', levels: [{ id: ids[i % ids.length], level: -(i % 40) }] })
);
const copying = microseconds(200, () => void new Map(session.send));

/** One move as a page carries it out: planned, committed, and everything found out that it wakes, with the tree and who is heard. */
const moved = (command: Command) => {
  const planned = plan(session, command);
  if (!planned.ok) throw new Error(planned.error.message);
  const { changes } = planned.value;
  commit(session, changes);
  rowsWoken(session, changes);
  woken(changes);
  known(session, facts.tree);
  known(session, facts.heard);
};
carryOut(session, { do: 'vcas.add', id: 'vca', name: 'ALL', members: [...ids, ...returns] });
const vca = microseconds(500, (i) => moved({ do: 'faders.set', levels: [{ id: 'vca', level: -(i % 40) }] }));
// A linked gesture over a hundred channels.
const hundred = ids.slice(0, 100);
carryOut(session, { do: 'links.add', id: 'link', name: 'Hundred', badge: '100', members: hundred, attributes: ['level'] });
const anchors = Object.fromEntries(hundred.map((id) => [id, session.channel.get(id)!.faderDb]));
const from = anchors[ids[0]];
const linked = microseconds(500, (i) => {
  const lead = { from, was: from - ((i + 29) % 30), to: from - (i % 30) };
  moved({ do: 'faders.move', ids: [ids[0]], lead, anchors });
});

// Whether eight stems are sound, judged anew after each move that decides who is heard: once the same tracks are whole in one each, and
// once as they are here, every track in returns that lie in other stems.
const stems = many(8, 's');
carryOut(
  session,
  ...stems.map((id, n): Command => ({ do: 'buses.add', id, name: id, members: ids.filter((_, i) => i % 8 === n) })),
  ...stems.map((id, n): Command => ({ do: 'channels.route', ids: returns.filter((_, i) => i % 8 === n), to: id })),
  { do: 'stems.set', ids: stems, on: true }
);
const judging = microseconds(60, (i) => {
  moved({ do: 'mutes.set', ids: [ids[i % ids.length]], on: !session.channel.get(ids[i % ids.length])!.mute });
  known(session, soundness);
});
const split = known(session, soundness).flaws.length;
carryOut(session, { do: 'stems.set', ids: stems, on: true, common: true });
const judgingWhole = microseconds(60, (i) => {
  moved({ do: 'mutes.set', ids: [ids[i % ids.length]], on: !session.channel.get(ids[i % ids.length])!.mute });
  known(session, soundness);
});

const result = {
  bench: 'commands',
  channels: session.channel.size,
  sends: session.send.size,
  commitMicroseconds: Number(committing.toFixed(2)),
  planMicroseconds: Number(planning.toFixed(1)),
  vcaOf500Milliseconds: Number((vca / 1000).toFixed(2)),
  linkOf100Milliseconds: Number((linked / 1000).toFixed(2)),
  soundnessMilliseconds: Number((judgingWhole / 1000).toFixed(2)),
  soundnessAllSplitMilliseconds: Number((judging / 1000).toFixed(2)),
  flawsAllSplit: split,
  copyMapMicroseconds: Math.round(copying),
  copyOverCommit: Math.round(copying / committing)
};
console.log(JSON.stringify(result));

// Commands in a session of 500 channels × 24 sends: planning and committing one fader move, beside copying the map of sends
// once, which is what an immutable store would pay. npm run bench -- commands [--json]
import { plan } from '../core/commands/plan.ts';
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

const result = {
  bench: 'commands',
  channels: session.channel.size,
  sends: session.send.size,
  commitMicroseconds: Number(committing.toFixed(2)),
  planMicroseconds: Number(planning.toFixed(1)),
  copyMapMicroseconds: Math.round(copying),
  copyOverCommit: Math.round(copying / committing)
};
console.log(JSON.stringify(result));

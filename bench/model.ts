// How the model's work grows with the session: the time at 2,000 channels over the time at 500, both × 24 returns, for planning a
// fader, sorting, the track sheet, audibility, removing a bus, a trace and making an engine. Linear is 4.
// npm run bench -- model [--json]
import { readFileSync } from 'node:fs';
import type { Command } from '../core/commands/index.ts';
import { plan, planBatch } from '../core/commands/plan.ts';
import { createEngine } from '../core/engine/engine.ts';
import { kernelModule } from '../core/kernel/kernel.ts';
import { defaultRules } from '../core/organise/defaultRules.ts';
import { readSheet, writeSheet } from '../core/organise/sheet.ts';
import { sortPlan } from '../core/organise/sort.ts';
import { treeDefaults } from '../core/organise/tree.ts';
import { audibility } from '../core/routing/audibility.ts';
import { trace } from '../core/routing/trace.ts';
import { newSession } from '../core/session/create.ts';
import { commit } from '../core/session/changes.ts';
import type { Session } from '../core/session/entities.ts';
import { carryOut, many, RATE, tracks } from './desk.ts';

const RETURNS = 24;
const NAMES = ['Kick', 'Snare', 'Bass', 'Gtr L', 'Lead Vox', 'BV 1', 'Pan Tenor', 'Trumpet', 'Keys', 'Room'];

/** Tracks of many names in buses of twelve, all sent to every return; one of them soloed, so that solo has work to do. */
function desk(channels: number): Session {
  const session = newSession({ name: 'Bench', rate: RATE });
  const buses = many(Math.round(channels / 13), 'b');
  const ids = many(channels - buses.length - RETURNS - 1, 't');
  const returns = many(RETURNS, 'r');
  const add = tracks(ids) as Extract<Command, { do: 'tracks.add' }>;
  carryOut(session, {
    ...add,
    tracks: add.tracks!.map((track, i) => {
      const name = `${NAMES[i % NAMES.length]} ${i}`;
      return { ...track, name, media: { ...track.media, name: `${name}.wav` } };
    })
  });
  for (const [i, id] of buses.entries())
    carryOut(session, { do: 'buses.add', id, name: `BUS ${i}`, members: ids.slice(i * 12, i * 12 + 12) });
  for (const id of returns) carryOut(session, { do: 'returns.add', id, name: id, effect: 'none' });
  for (const target of returns) carryOut(session, { do: 'sends.set', sends: ids.map((source) => ({ source, target, level: -12 })) });
  for (const id of ids.filter((_, i) => i % 4 === 0)) carryOut(session, { do: 'inserts.add', id: `${id}:eq`, channelId: id, type: 'eq' });
  carryOut(session, { do: 'solos.set', ids: [ids[5]], on: true });
  return session;
}

const changesOf = (session: Session, command: Command) => {
  const planned = plan(session, command);
  if (!planned.ok) throw new Error(planned.error.message);
  return planned.value.changes;
};

const module = kernelModule(readFileSync('dist/kernel.wasm'));
let serial = 0;
const WORK: Readonly<Record<string, (session: Session) => unknown>> = {
  fader: (session) => changesOf(session, { do: 'faders.set', levels: [{ id: `t${++serial % 100}`, level: -(serial % 40) }] }),
  sort: (session) => {
    const { commands } = sortPlan(session, {
      book: defaultRules,
      options: { ...treeDefaults, rename: true, reorder: true },
      newId: () => `n${++serial}`
    });
    const planned = planBatch(session, commands);
    if (!planned.ok) throw new Error(planned.error.message);
  },
  sheet: (session) => readSheet(session, writeSheet(session)),
  audibility: (session) => audibility(session).state('t1'),
  removeBus: (session) => {
    // Taken back, so that each run removes the same.
    commit(session, commit(session, changesOf(session, { do: 'channels.remove', ids: ['b3'] })));
  },
  trace: (session) => trace(session, 't7'),
  engine: (session) => createEngine({ module, session, solo: true, pcm: () => undefined })
};

/** Milliseconds a run, the middle one of `runs` stretches; a stretch is at least 20 ms long. */
function milliseconds(session: Session, work: (session: Session) => unknown, runs = 7): number {
  let times = 1;
  const stretch = () => {
    const began = process.hrtime.bigint();
    for (let i = 0; i < times; i++) work(session);
    return Number(process.hrtime.bigint() - began) / 1e6;
  };
  while (stretch() < 20 && times < 100_000) times *= 2;
  return Array.from({ length: runs }, () => stretch() / times).sort((a, b) => a - b)[runs >> 1];
}

const [small, large] = [desk(500), desk(2000)];
const took = Object.fromEntries(
  Object.entries(WORK).map(([name, work]) => [name, [milliseconds(small, work), milliseconds(large, work)] as const])
);
const growth = Object.fromEntries(Object.entries(took).map(([name, [few, all]]) => [name, Number((all / few).toFixed(1))]));
const ms = Object.fromEntries(Object.entries(took).map(([name, [, all]]) => [name, Number(all.toPrecision(3))]));
if (process.argv.includes('--json')) console.log(JSON.stringify({ ...growth, msAt2000: ms }));
else
  for (const [name, [few, all]] of Object.entries(took))
    console.log(`${name.padEnd(12)} ${few.toPrecision(3).padStart(8)} ms → ${all.toPrecision(3).padStart(8)} ms: × ${growth[name]}`);

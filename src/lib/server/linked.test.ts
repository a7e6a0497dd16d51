// Two pages whose hands are on members of one link group at once: whoever comes first, all end with the same levels as the database, and
// what each moved is in them.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Command } from '$core/commands/index';
import { encodeSession } from '$core/session/tables';
import type { Effect } from '$core/sync/outbox';
import type { Done, News } from '$core/sync/wire';
import { migratedDatabase } from '../../../tests/database';
import { copy, NOTHING, page } from '../../../tests/oracle/outboxPage';
import { carryOut, emptyDesk, trackCommand } from '../../../tests/oracle/rig';
import type { Database } from './db/database';
import { createSessions, type Sessions } from './sessions';

const IDS = ['a', 'b', 'c'] as const;
let directory: string;
let database: Database;
let sessions: Sessions;
let count = 0;

beforeAll(async () => {
  directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-linked-'));
  database = await migratedDatabase(path.join(directory, 'database'));
  sessions = createSessions(database);
});
afterAll(async () => {
  await database.close();
  rmSync(directory, { recursive: true });
});

const desk = () =>
  carryOut(
    emptyDesk(),
    trackCommand(IDS.map((id) => ({ id, frames: 100 }))),
    { do: 'faders.set', levels: IDS.map((id, i) => ({ id, level: -20 - 10 * i })) },
    { do: 'links.add', id: 'link', name: 'Link', badge: 'l', members: [...IDS], attributes: ['level', 'mute'] }
  );

const event = fc.record({
  who: fc.constantFrom(0 as const, 1 as const),
  what: fc.constantFrom('move', 'move', 'move', 'send', 'news', 'let go'),
  by: fc.integer({ min: -5, max: 5 }).map((tenths) => tenths / 10)
});

it('end equal to each other and to the database, at random interleavings', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(event, { minLength: 10, maxLength: 40 }),
      fc.constantFrom(...IDS),
      fc.constantFrom(...IDS),
      async (events, first, second) => {
        const id = `linked-${++count}`;
        const start = desk();
        await sessions.adopt(id, copy(start));
        const pages = [page(start), page(start)];
        const leads = [first, second];
        const log: Done[] = [];
        const heard = [0, 0];
        const sent: Extract<Effect, { do: 'send' }>[][] = [[], []];
        const gestures: ({ name: string; from: number; was: number; anchors: Record<string, number> } | null)[] = [null, null];
        const total = [0, 0];
        const tell = (who: 0 | 1, said: Parameters<(typeof pages)[0]['tell']>[0]) => {
          const before = pages[who].out.length;
          pages[who].tell(said);
          sent[who].push(...pages[who].out.slice(before));
        };
        const carry = async (who: 0 | 1) => {
          const next = sent[who].shift();
          if (!next) return;
          const done = await sessions.carryOut(id, {
            base: next.base,
            id: next.batch.id,
            commands: next.batch.commands,
            gesture: next.batch.gesture
          });
          if (done.ok) {
            const seen = log.length;
            for (const each of [
              ...(done.value.missed ?? []),
              { revision: done.value.revision, id: next.batch.id, changes: done.value.changes }
            ])
              if (each.revision > seen) log.push(each);
          }
          tell(who, { is: 'answered', id: next.batch.id, answer: JSON.parse(JSON.stringify(done)) as typeof done });
        };
        const hear = (who: 0 | 1) => {
          const done = log[heard[who]];
          if (!done) return;
          heard[who]++;
          tell(who, { is: 'heard', news: JSON.parse(JSON.stringify({ ...done, history: NOTHING })) as News });
        };
        for (const { who, what, by } of events) {
          if (what === 'send') {
            tell(who, { is: 'due' });
            await carry(who);
          } else if (what === 'news') hear(who);
          else if (what === 'let go') gestures[who] = null;
          else {
            const { session } = pages[who];
            const levels = Object.fromEntries(IDS.map((each) => [each, session.channel.get(each)!.faderDb]));
            const from = levels[leads[who]];
            const gesture = (gestures[who] ??= { name: `g${++count}`, from, was: from, anchors: levels });
            const lead = { from: gesture.from, was: gesture.was, to: Math.round((gesture.was + by) * 100) / 100 };
            gesture.was = lead.to;
            total[who] += by;
            const move: Command = { do: 'faders.move', ids: [leads[who]], lead, anchors: gesture.anchors };
            tell(who, { is: 'acted', id: `m${++count}`, commands: [move], gesture: gesture.name });
          }
        }
        for (let i = 0; i < 200 && [0, 1].some((who) => pages[who].outbox().queue.length || heard[who] < log.length); i++)
          for (const who of [0, 1] as const) {
            tell(who, { is: 'due' });
            await carry(who);
            hear(who);
          }
        const kept = (await createSessions(database).read(id, (state) => state))!.session;
        const levels = (session: typeof kept) => IDS.map((each) => session.channel.get(each)!.faderDb);
        expect(levels(pages[0].session)).toEqual(levels(kept));
        expect(levels(pages[1].session)).toEqual(levels(kept));
        expect(encodeSession(pages[0].session)).toEqual(encodeSession(pages[1].session));
        // Nothing could meet an end of its range.
        levels(kept).forEach((level, i) => expect(level).toBeCloseTo(-20 - 10 * i + total[0] + total[1], 6));
      }
    ),
    { numRuns: Number(process.env.RUNS ?? 24), seed: 9 }
  );
});

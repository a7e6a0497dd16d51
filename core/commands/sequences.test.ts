// What holds for any sequence of commands, sensible or not: it is taken back by its undos, closes no loop, contradicts nothing, and
// survives the wire; and whatever arguments a command is given, it answers in words.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyCommand, bent, oddValue, groupedDesk } from '../../tests/oracle/anyCommand.ts';
import { rig } from '../../tests/oracle/rig.ts';
import { allEdges, successors, pathAlong } from '../routing/graph.ts';
import { readDocument, writeDocument } from '../formats/document.ts';
import { fits } from '../formats/gate.ts';
import { checkSession } from '../session/check.ts';
import { commit, decodeChanges, encodeChanges, inverse, merge, type Change } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { fact, known } from '../session/facts.ts';
import { idsBy, orderedIds } from '../session/lookup.ts';
import { columnsOf, decodeSession, encodeSession, tableNames, type SessionDocument } from '../session/tables.ts';
import { commands, type Command } from './index.ts';
import { plan } from './plan.ts';

const sorted = (document: SessionDocument) =>
  Object.entries(document).map(([table, rows]) => [table, rows.map((row) => JSON.stringify(Object.entries(row).sort())).sort()]);

const channelCount = fact(['tree'], (session) => session.channel.size);
const openSends = fact(['routing'], (session) => [...session.send.values()].filter(({ levelDb }) => levelDb > -Infinity).length);

/** Look-ups and facts that were kept through all commits are those that would be made anew. */
function expectFound(session: Session): void {
  for (const table of tableNames)
    for (const [name, { reference }] of Object.entries(columnsOf(table))) {
      if (!reference || reference.removed === 'leaves') continue;
      const rows = [...session[table]] as [string, Record<string, unknown>][];
      for (const value of new Set([...rows.map(([, row]) => row[name]), 'gone', null]))
        expect(idsBy(session, table, name as never, value)).toEqual(
          rows
            .filter(([, row]) => row[name] === value)
            .map(([key]) => key)
            .sort()
        );
    }
  const order = [...session.channel.values()].sort((a, b) => a.position - b.position || a.born - b.born);
  expect(orderedIds(session)).toEqual(order.map(({ id }) => id));
  expect(known(session, channelCount)).toBe(session.channel.size);
  expect(known(session, openSends)).toBe(openSends.of(session));
}

describe('any sequence of commands', () => {
  it('is taken back by its undos, never closes a loop, and survives the wire', () => {
    fc.assert(
      fc.property(fc.array(anyCommand(), { maxLength: 25 }), (commands) => {
        const session = groupedDesk();
        const start = encodeSession(session);
        const undos: Change[][] = [];
        let whole: Change[] = [];
        for (const command of commands) {
          const before = encodeSession(session);
          const planned = plan(session, command);
          // Rows may stand elsewhere in their maps: no sum and no view goes by that.
          expect(sorted(encodeSession(session))).toEqual(sorted(before));
          if (!planned.ok) continue;
          const wire = decodeChanges(JSON.parse(JSON.stringify(encodeChanges(planned.value.changes))) as Change[]);
          expect(wire).toEqual(planned.value.changes);
          undos.push(commit(session, wire));
          whole = merge(whole, wire);
          const next = successors(allEdges(session));
          for (const { from, to } of allEdges(session)) expect(pathAlong(next, to, from)).toBeNull();
          expect(checkSession(session).ok).toBe(true);
          expectFound(session);
        }
        const end = encodeSession(session);
        expect(encodeSession(decodeSession(JSON.parse(JSON.stringify(end)) as typeof end))).toEqual(end);
        // The merged list takes the whole sequence back at once, as the last undo of each would one by one.
        const merged = decodeSession(end);
        commit(merged, inverse(whole));
        expect(sorted(encodeSession(merged))).toEqual(sorted(start));
        for (const undo of undos.reverse()) commit(session, undo);
        expect(sorted(encodeSession(session))).toEqual(sorted(start));
      }),
      { numRuns: 150, seed: 7 }
    );
  });
});

describe('any arguments', () => {
  const names = Object.keys(commands) as (keyof typeof commands)[];
  const everything = () => encodeSession(groupedDesk());

  it('of every command are either right or refused in words; nothing throws, nothing is half done', () => {
    const session = groupedDesk();
    const before = everything();
    // Fields that commands have, with what belongs there and what does not.
    const value = fc.oneof(
      ...[fc.constantFrom('a', 'bus', 'ret', 'mix', 'gone', '', '-inf'), fc.integer(), fc.double(), fc.boolean(), fc.constant(null)],
      fc.array(fc.constantFrom('a', 'bus', 'gone', 3, null), { maxLength: 3 }),
      fc.array(
        fc.record(
          { id: fc.constantFrom('a', 'gone'), source: fc.constant('a'), target: fc.constant('ret'), level: fc.jsonValue() },
          { noNullPrototype: true }
        )
      ),
      fc.jsonValue()
    );
    const field = fc.constantFrom(
      ...['id', 'ids', 'to', 'name', 'names', 'levels', 'sends', 'pans', 'pair', 'pattern', 'tracks', 'values', 'type', 'channelId'],
      ...['members', 'into', 'sources', 'target', 'source', 'tap', 'before', 'on', 'colour', 'role', 'as', 'twins', 'token', 'caption']
    );
    fc.assert(
      fc.property(fc.constantFrom(...names), fc.dictionary(field, value, { maxKeys: 6, noNullPrototype: true }), (name, given) => {
        const planned = plan(session, { ...given, do: name } as unknown as Command);
        if (!planned.ok) expect(planned.error.message).toMatch(/\S+ .*\S/s);
        else JSON.stringify(encodeChanges(planned.value.changes));
        expect(encodeSession(session)).toEqual(before);
      }),
      { numRuns: 1500, seed: 11 }
    );
  });

  it('that no field takes are refused by plan itself: what it accepts, gate, package and engine take', () => {
    const fields = fc.option(fc.constantFrom('__proto__', 'constructor', 'more', 'id'), { nil: null, freq: 12 });
    let accepted = 0;
    const desks = fc.array(anyCommand(), { maxLength: 6 });
    fc.assert(
      fc.property(desks, anyCommand(), oddValue, fc.nat(60), fields, fc.nat(11), (before, command, odd, pick, field, turn) => {
        const session = groupedDesk();
        for (const each of before) {
          const planned = plan(session, each);
          if (planned.ok) commit(session, planned.value.changes);
        }
        const planned = plan(session, bent(command, odd, pick, field));
        if (!planned.ok) return;
        accepted++;
        commit(session, planned.value.changes);
        expect(fits(session, planned.value.changes)).toEqual({ ok: true, value: null });
        const again = readDocument(writeDocument(session));
        expect(again).toMatchObject({ ok: true });
        expect(planned.value.label).toMatch(/\S/);
        // An engine takes longer than all the rest: one in twelve is played.
        if (turn === 0) rig(session, new Map()).render(new Float32Array(64), new Float32Array(64));
      }),
      { numRuns: Number(process.env.RUNS ?? 900), seed: 23 }
    );
    expect(accepted).toBeGreaterThan(100);
  });
});

// References over several steps, with tables that are here only: what stands on an insert, and what stands on that.
import { beforeAll, expect, it, vi } from 'vitest';
import { exampleDesk } from '../../tests/oracle/playing.ts';
import type { Session } from './entities.ts';

vi.mock('./tables.ts', async (original) => {
  const real = await original<typeof import('./tables.ts')>();
  const is = await import('./column.ts');
  const lane = is.table({ id: is.id(), insertId: is.id({ reference: { to: 'insert', removed: 'goes', copied: 'with' } }) });
  const point = is.table({
    id: is.id(),
    laneId: is.id({ reference: { to: 'strip', removed: 'goes', copied: 'with' } }),
    hintId: is.orNull(is.id(), { reference: { to: 'insert', removed: 'stays', copied: 'within' } })
  });
  const MORE: Record<string, import('./column.ts').Table> = { strip: lane as never, spot: point as never };
  return {
    ...real,
    get tableNames() {
      return [...real.tableNames, 'strip', 'spot'];
    },
    columnsOf: (table: string) => MORE[table]?.columns ?? real.columnsOf(table as never),
    idColumns: (table: string) => (table in MORE ? ['id'] : real.idColumns(table as never)),
    rowId: (table: string, row: never) => (table in MORE ? (row as { id: string }).id : real.rowId(table as never, row))
  };
});

let session: Session;
let dependents: typeof import('./dependents.ts');
beforeAll(async () => {
  dependents = await import('./dependents.ts');
  const rows = (list: readonly { id: string }[]) => new Map(list.map((row) => [row.id, row]));
  session = Object.assign(exampleDesk(), {
    strip: rows([{ id: 'l1', insertId: 'comp' } as { id: string }, { id: 'l2', insertId: 'eq' } as { id: string }]),
    spot: rows([
      { id: 'p1', laneId: 'l1', hintId: 'comp' } as { id: string },
      { id: 'p2', laneId: 'l1', hintId: 'eq' } as { id: string },
      { id: 'p3', laneId: 'l2', hintId: 'comp' } as { id: string }
    ])
  });
});

it('removes what stands on what goes, step by step, once each, whatever it began with', () => {
  const gone = (...args: Parameters<typeof dependents.removedWith>) =>
    dependents.removedWith(...args).flatMap(({ table, key, after }) => (after === null ? [`${table} ${key}`] : []));
  expect(gone(session, new Set(['comp']), 'insert').sort()).toEqual(['spot p1', 'spot p2', 'strip l1']);
  const all = gone(session, new Set(['bus', 'a']));
  expect(all).toEqual(
    expect.arrayContaining(['insert comp', 'strip l1', 'spot p1', 'spot p2', 'insert eq', 'strip l2', 'spot p3', 'media m-a'])
  );
  expect(new Set(all).size).toBe(all.length);
});

it('copies what stands on what is copied, and names the copies within', () => {
  const made = dependents.copiedWith(session, new Map([['bus', 'bus2']]));
  const of = (table: string) => made.filter((each) => (each.table as string) === table).map(({ after }) => after!);
  const [insert] = of('insert');
  const [copied] = of('strip');
  expect(insert).toMatchObject({ channelId: 'bus2', type: 'comp' });
  expect(copied.insertId).toBe(insert.id);
  // Of two points one names the compressor that was copied too, the other an equaliser elsewhere.
  expect(of('spot').map(({ laneId, hintId }) => [laneId, hintId])).toEqual([
    [copied.id, insert.id],
    [copied.id, 'eq']
  ]);
});

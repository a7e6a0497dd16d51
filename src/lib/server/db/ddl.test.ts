// The database that the migrations make, beside the one that the description of the tables makes; and what either lets in.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { migratedDatabase } from '../../../../tests/database';
import { idColumns, tableNames } from '$core/session/tables';
import type { Database } from './database';
import { createTable } from './ddl';
import { snake } from './naming';

let database: Database;
const directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-ddl-'));
beforeAll(async () => {
  database = await migratedDatabase(path.join(directory, 'database'));
  await database.query('create schema described');
  // Tables that others refer to come first.
  const order = [...tableNames].sort((a, b) => Number(b === 'channel' || b === 'media') - Number(a === 'channel' || a === 'media'));
  for (const table of order) for (const statement of createTable(table, 'described')) await database.query(statement);
});
afterAll(async () => {
  await database.close();
  rmSync(directory, { recursive: true });
});

/** Everything that PostgreSQL knows of a table, in words that do not depend on names. */
async function told(schema: string, table: string) {
  const plain = (text: unknown) =>
    String(text)
      .replaceAll(`${schema}.`, '')
      .replace(/ NOT VALID$/, '');
  const columns = await database.query(
    `select column_name, data_type, is_nullable, column_default from information_schema.columns
     where table_schema = $1 and table_name = $2 order by column_name`,
    [schema, table]
  );
  const constraints = await database.query(
    `select pg_get_constraintdef(c.oid) as said from pg_constraint c join pg_class t on t.oid = c.conrelid
     join pg_namespace n on n.oid = t.relnamespace where n.nspname = $1 and t.relname = $2 and c.contype <> 'n'`,
    [schema, table]
  );
  const indexes = await database.query('select indexdef from pg_indexes where schemaname = $1 and tablename = $2', [schema, table]);
  return {
    columns,
    constraints: constraints.map(({ said }) => plain(said)).sort(),
    indexes: indexes.map(({ indexdef }) => plain(indexdef).replace(/INDEX \S+ ON/, 'INDEX ON')).sort()
  };
}

it.each(tableNames)('has migrated %s to what its description says', async (table) => {
  const migrated = await told('public', snake(table));
  expect(migrated.columns.length).toBeGreaterThan(idColumns(table).length);
  expect(migrated).toEqual(await told('described', snake(table)));
});

it('refuses in SQL what the description does not allow', async () => {
  await database.query("insert into session (id, name) values ('s', 's')");
  const channel = (fields: Record<string, unknown>) => {
    const row = { session_id: 's', id: 'c', kind: 'track', name: 'C', colour: 0, position: 0, born: 0, width: 1, fader_db: 0, pan: 0 };
    const all = { ...row, mute: false, solo: false, solo_safe: false, ...fields };
    return database.query(
      `insert into channel (${Object.keys(all).join(', ')}) select ${Object.keys(all).join(', ')}
       from jsonb_populate_record(null::channel, $1::jsonb) returning id`,
      [JSON.stringify(all)]
    );
  };
  const wrong: Record<string, unknown>[] = [
    ...[{ kind: 'drum' }, { name: '' }, { name: 'x'.repeat(121) }, { colour: 12 }, { colour: -1 }, { width: 3 }, { pan: 100.5 }],
    ...[{ fader_db: 12.1 }, { fader_db: -121 }, { born: -1 }, { output_pair: 64 }, { output_id: 'c', output_pair: 0 }]
  ];
  for (const fields of wrong) await expect(channel(fields), JSON.stringify(fields)).rejects.toThrow(/violates check/);
  expect(await channel({ fader_db: '-Infinity', colour: 11.9, name: 'x'.repeat(120) })).toEqual([{ id: 'c' }]);
});

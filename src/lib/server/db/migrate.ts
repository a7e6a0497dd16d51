// Brings a database forward: every migration once, in order of its number, each in a transaction.
import type { Database } from './database';

const files = import.meta.glob<string>('./migrations/*.sql', { query: '?raw', import: 'default', eager: true });

/** Statements of a migration; ours hold no semicolon inside a statement. */
export const statements = (sql: string): string[] =>
  sql
    .replace(/^--.*$/gm, '')
    .split(';')
    .map((statement) => statement.trim())
    .filter(Boolean);

/** The names of all migrations, in their order. */
export const migrationNames: readonly string[] = Object.keys(files).sort();

/** `only` goes no further than those: for what an older Isotaxis has made. */
export async function migrate(database: Database, only: readonly string[] = migrationNames): Promise<void> {
  await database.query('create table if not exists migration (name text primary key, done_at timestamptz not null default now())');
  const done = new Set((await database.query('select name from migration')).map((row) => row.name));
  for (const name of migrationNames) {
    if (done.has(name) || !only.includes(name)) continue;
    await database.transaction(async (query) => {
      for (const statement of statements(files[name])) await query(statement);
      await query('insert into migration (name) values ($1)', [name]);
    });
  }
}

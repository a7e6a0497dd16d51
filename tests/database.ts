// A database of its own for a test: embedded in a folder, or a new one on the server at DATABASE_URL; empty, or as it is today.
import { randomUUID } from 'node:crypto';
import { cpSync, mkdirSync } from 'node:fs';
import pg from 'pg';
import { hashOf } from '../scripts/hash.mjs';
import { openDatabase, type Database } from '../src/lib/server/db/database';
import { migrate } from '../src/lib/server/db/migrate';
import { madeOnce } from './madeOnce';

export async function freshDatabase(directory: string): Promise<Database> {
  const server = process.env.DATABASE_URL;
  if (!server) return openDatabase(directory);
  const name = `isotaxis_${randomUUID().replaceAll('-', '')}`;
  const admin = new pg.Client({ connectionString: server });
  await admin.connect();
  await admin.query(`create database ${name}`);
  await admin.end();
  const url = new URL(server);
  url.pathname = `/${name}`;
  return openDatabase(directory, url.href);
}

/** The folder of an embedded database that is brought forward already, for these migrations. */
const template = () =>
  madeOnce(`database-${hashOf(['src/lib/server/db', 'package-lock.json']).slice(0, 16)}`, async (folder) => {
    const database = await openDatabase(folder);
    await migrate(database);
    await database.close();
  });

/** A database with today's tables, in a folder that is not there yet or is empty. */
export async function migratedDatabase(directory: string): Promise<Database> {
  if (!process.env.DATABASE_URL) {
    mkdirSync(directory, { recursive: true });
    cpSync(await template(), directory, { recursive: true });
  }
  const database = await freshDatabase(directory);
  await migrate(database);
  return database;
}

// A database of its own for a test: embedded in a folder, or a new one on the server at DATABASE_URL; empty, or as it is today.
import { randomUUID } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import pg from 'pg';
import { hashOf } from '../scripts/hash.mjs';
import { openDatabase, type Database } from '../src/lib/server/db/database';
import { migrate } from '../src/lib/server/db/migrate';

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

/** The folder of an embedded database that is brought forward already, made once for these migrations: making it takes longer than most tests. */
async function template(): Promise<string> {
  const home = path.join(tmpdir(), `isotaxis-migrated-${hashOf(['src/lib/server/db', 'package-lock.json']).slice(0, 16)}`);
  if (existsSync(home)) return home;
  const made = mkdtempSync(path.join(tmpdir(), 'isotaxis-migrating-'));
  const database = await openDatabase(made);
  await migrate(database);
  await database.close();
  try {
    renameSync(made, home);
  } catch (error) {
    // Another process was quicker.
    if (!existsSync(home)) throw error;
    rmSync(made, { recursive: true });
  }
  return home;
}

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

// A database of its own for a test: embedded in a folder, or a new one on the server at DATABASE_URL.
import { randomUUID } from 'node:crypto';
import pg from 'pg';
import { openDatabase, type Database } from '../src/lib/server/db/database';

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

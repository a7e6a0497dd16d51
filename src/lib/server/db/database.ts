// The thin adapter over PostgreSQL: queries and transactions. Embedded in a thread of its own by default, a server where
// DATABASE_URL says so; the same SQL either way.
import { openEmbedded } from './embedded';
import { openServer } from './postgres';

export type Row = Record<string, unknown>;
export type Query = (sql: string, params?: unknown[]) => Promise<Row[]>;

export type Database = {
  readonly query: Query;
  /** Runs `work` in a transaction; any throw rolls back. Inside, use the query it is given: the other one would wait for ever. */
  readonly transaction: <T>(work: (query: Query) => Promise<T>) => Promise<T>;
  /** How often the database was away and came back: what was read before may have been changed by another since. */
  readonly regained: () => number;
  readonly close: () => Promise<void>;
};

export const openDatabase = (directory: string, url = process.env.DATABASE_URL): Promise<Database> =>
  url ? openServer(url) : openEmbedded(directory);

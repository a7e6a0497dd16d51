// A PostgreSQL server as the database: a pool, and one connection that holds the lock by which one Isotaxis owns it.
import pg from 'pg';
import type { Database, Query, Row } from './database';

/** The advisory lock's number: "isotaxis" on a telephone keypad. */
const LOCK = 47682947;

export async function openServer(url: string): Promise<Database> {
  const owner = new pg.Client({ connectionString: url });
  await owner.connect().catch((error: Error) => {
    throw new Error(`The database at DATABASE_URL does not answer: ${error.message}. Start it, or leave DATABASE_URL away.`);
  });
  const [{ taken }] = (await owner.query<{ taken: boolean }>('select pg_try_advisory_lock($1) as taken', [LOCK])).rows;
  if (!taken) {
    await owner.end();
    throw new Error('Another Isotaxis is using the database at DATABASE_URL. Stop it, or use another database.');
  }
  const pool = new pg.Pool({ connectionString: url, max: 4 });
  // A connection that breaks while idle is replaced at the next query; without a listener it would end the process.
  pool.on('error', () => undefined);
  owner.on('error', () => undefined);
  const on =
    (client: pg.Pool | pg.PoolClient): Query =>
    async (sql, params = []) =>
      (await client.query<Row>(sql, params)).rows;
  return {
    query: on(pool),
    transaction: async (work) => {
      const client = await pool.connect();
      try {
        await client.query('begin');
        const result = await work(on(client));
        await client.query('commit');
        return result;
      } catch (error) {
        await client.query('rollback');
        throw error;
      } finally {
        client.release();
      }
    },
    close: async () => {
      await pool.end();
      await owner.end();
    }
  } satisfies Database;
}

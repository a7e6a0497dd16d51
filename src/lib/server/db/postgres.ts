// A PostgreSQL server as the database: a pool, and one connection that holds the lock by which one Isotaxis owns it. The server may stop
// and come back: until the lock is ours again everything is refused with `DatabaseAway`, and nothing ends this process.
import pg from 'pg';
import { DatabaseAway } from '../failures';
import type { Database, Query, Row } from './database';

/** The advisory lock's number: "isotaxis" on a telephone keypad. */
const LOCK = 47682947;
const UNKNOWN_SETTING = '42704';
const RETRY_MS = 500;
const PATIENCE_MS = 5000;

const AWAY = 'The database at DATABASE_URL does not answer. Nothing was changed; it is asked again and again.';
const TAKEN = 'Another Isotaxis has taken the database at DATABASE_URL meanwhile. Stop one of them.';

/** What the server's own settings end: a statement or a transaction that takes long, waits for another, or wants to write where it may not. */
const ENDED: Readonly<Record<string, string>> = {
  ...Object.fromEntries(
    ['57014', '55P03', '25P03', '25P04', '40001', '40P01'].map((code) => [
      code,
      'The database at DATABASE_URL broke this off: it took too long, or waited for something else. Nothing was changed. Try again.'
    ])
  ),
  '25006': 'The database at DATABASE_URL takes nothing in: it only reads now. Nothing was changed. Let it write, and try again.'
};

/** What a connection says when it breaks, or when the server stops, starts or is full (classes 08, 53 and 57 of SQLSTATE, and Node's own). */
const awayWords = (error: unknown): string | null => {
  const { code = '', message = '' } = error as { code?: string; message?: string };
  if (Object.hasOwn(ENDED, code)) return ENDED[code];
  const away =
    /^(08|57P)/.test(code) ||
    code === '53300' ||
    /^E(CONN|PIPE|HOST|NET|TIMEDOUT)/.test(code) ||
    /connection terminated|connection ended|not queryable|timeout exceeded when trying to connect/i.test(message);
  return away ? AWAY : null;
};

export async function openServer(url: string): Promise<Database> {
  let owner: pg.Client | null = null;
  let why = AWAY;
  let closing = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let regained = 0;

  /** Takes the lock on a connection of its own; its loss begins the search for another. */
  const own = async (): Promise<void> => {
    const client = new pg.Client({ connectionString: url, connectionTimeoutMillis: PATIENCE_MS, keepAlive: true });
    let lost = false;
    const lose = () => {
      if (lost) return;
      lost = true;
      if (owner === client) owner = null;
      client.end().catch(() => undefined);
      seek();
    };
    client.on('error', () => owner === client && lose());
    client.on('end', () => owner === client && lose());
    await client.connect();
    // It holds the lock and rests: it is not to be ended for that. Servers before 14 end nobody, and do not know the word.
    await client.query('set idle_session_timeout = 0').catch((error: { code?: string }) => {
      if (error.code !== UNKNOWN_SETTING) throw error;
    });
    const [{ taken }] = (await client.query<{ taken: boolean }>('select pg_try_advisory_lock($1) as taken', [LOCK])).rows;
    if (!taken) {
      await client.end();
      throw new DatabaseAway(TAKEN);
    }
    owner = client;
  };
  const seek = () => {
    if (closing) return;
    clearTimeout(timer);
    timer = setTimeout(() => {
      own().then(
        () => regained++,
        (error: unknown) => {
          why = error instanceof DatabaseAway ? error.message : AWAY;
          seek();
        }
      );
    }, RETRY_MS);
  };

  await own().catch((error: Error) => {
    if (error instanceof DatabaseAway)
      throw new Error('Another Isotaxis is using the database at DATABASE_URL. Stop it, or use another database.');
    throw new Error(`The database at DATABASE_URL does not answer: ${error.message}. Start it, or leave DATABASE_URL away.`);
  });
  const pool = new pg.Pool({ connectionString: url, max: 4, connectionTimeoutMillis: PATIENCE_MS, keepAlive: true });
  // A connection that breaks while idle is replaced at the next query; without a listener it would end the process.
  pool.on('error', () => undefined);

  /** Nothing goes to the database while its lock is not ours. */
  const guarded = async <T>(work: () => Promise<T>): Promise<T> => {
    if (!owner) throw new DatabaseAway(why);
    try {
      return await work();
    } catch (error) {
      const away = awayWords(error);
      throw away === null ? error : new DatabaseAway(away, { cause: error });
    }
  };
  const on =
    (client: pg.Pool | pg.PoolClient): Query =>
    async (sql, params = []) =>
      (await client.query<Row>(sql, params)).rows;

  const transaction = async <T>(work: (query: Query) => Promise<T>): Promise<T> => {
    const client = await pool.connect();
    let broken: Error | undefined;
    const breaks = (error: Error) => (broken = error);
    client.on('error', breaks);
    const holder = owner;
    try {
      await client.query('begin');
      const result = await work(on(client));
      // The lock may have gone to another while this was under way.
      if (owner !== holder || holder === null) throw new DatabaseAway(AWAY);
      await client.query('commit');
      return result;
    } catch (error) {
      if (!broken) await client.query('rollback').catch(breaks);
      throw error;
    } finally {
      client.off('error', breaks);
      client.release(broken);
    }
  };

  return {
    query: (sql, params) => guarded(() => on(pool)(sql, params)),
    transaction: (work) => guarded(() => transaction(work)),
    regained: () => regained,
    close: async () => {
      closing = true;
      clearTimeout(timer);
      await pool.end();
      await owner?.end().catch(() => undefined);
    }
  } satisfies Database;
}
